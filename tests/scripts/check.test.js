// What is wrong with a picture is asked of the server; whatever does not come in time keeps nobody waiting.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage } from "./browser.js";

const FAULTS = "<ul><li>Too dark</li></ul>";
let faultsOf, answer;

beforeEach(async () => {
  const { document, window } = openPage("");
  const make = document.createElement.bind(document);
  document.createElement = (name) => name === "canvas" ? { getContext: () => ({ drawImage() {} }), toBlob: (done) => done(new window.Blob(["x"])) } : make(name);
  globalThis.createImageBitmap = async () => ({ width: 4000, height: 3000, close() {} });
  globalThis.fetch = async () => answer();
  ({ faultsOf } = await import("../../src/eyot/shared/static/js/check.js"));
});

const timedOut = () => { throw new DOMException("signal timed out", "TimeoutError"); };

test("faults come as the page shows them", async () => {
  answer = () => ({ status: 200, text: async () => FAULTS });
  assert.equal(await faultsOf(new File(["x"], "a.jpg")), FAULTS);
});

test("no answer, half an answer, another page and a refusal are none", async () => {
  const none = [timedOut, () => ({ status: 200, text: timedOut }), () => ({ status: 200, text: async () => "<html>kept" }), () => ({ status: 403, text: async () => FAULTS })];
  for (answer of none) assert.equal(await faultsOf(new File(["x"], "a.jpg")), "");
});
