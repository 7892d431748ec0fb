// All tests of scripts in one process, since to load jsdom takes longer than most of them; each file finds what is global as it was.
import { readdirSync } from "node:fs";
import { after, describe, test } from "node:test";
import "./browser.js";
import "./page.js"; // both load what is kept for all

const before = Object.getOwnPropertyDescriptors(globalThis);

function putBack() {
  for (const name of Object.getOwnPropertyNames(globalThis)) if (!(name in before)) delete globalThis[name];
  for (const [name, was] of Object.entries(before)) {
    if (was.configurable && Object.getOwnPropertyDescriptor(globalThis, name)?.value !== was.value) Object.defineProperty(globalThis, name, was);
  }
}

for (const name of readdirSync(new URL(".", import.meta.url)).filter((file) => file.endsWith(".test.js"))) {
  describe(name, async () => {
    after(putBack);
    await import(`./${name}`).catch((error) => test("is loaded", () => { throw error; }));
  });
}
