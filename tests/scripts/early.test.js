// What is pressed before the page's scripts run.
import assert from "node:assert/strict";
import { readFileSync } from "node:fs";
import { test } from "node:test";
import { JSDOM } from "../../assets/node_modules/jsdom/lib/api.js";

const SCRIPT = readFileSync(new URL("../../src/eyot/shared/static/js/early.js", import.meta.url), "utf8");
const BODY = `<button id="level">floating</button><form><input name="mark"><button id="keep">Keep</button></form><select><option>a<option>b</select>
  <a href="#there" id="link">there</a><div hx-get="/more/" id="more"><i>more</i><a href="#in" id="inside">inside</a></div>`;

/** A page whose scripts have not run; `heard` is what they hear once `begin` lets them. */
function early() {
  const { window } = new JSDOM(`<!DOCTYPE html><body>${BODY}</body>`, { runScripts: "outside-only", url: "http://eyot.test/" });
  const { document } = window, heard = [];
  window.eval(SCRIPT);
  const listen = (type, words) => document.addEventListener(type, (event) => { event.preventDefault(); heard.push(words(event)); });
  const begin = async () => {
    document.dispatchEvent(new window.Event("DOMContentLoaded"));
    await new Promise((done) => { window.setTimeout(done, 1); });
  };
  listen("click", (event) => `click ${event.target.id || event.target.parentNode.id}`);
  listen("keydown", (event) => `key ${event.key}${event.shiftKey ? " with shift" : ""}`);
  listen("change", (event) => `change ${event.target.value}`);
  const key = (on, more) => on.dispatchEvent(new window.KeyboardEvent("keydown", { bubbles: true, cancelable: true, ...more }));
  const byId = (id) => document.getElementById(id);
  return { window, document, heard, begin, key, byId };
}

test("buttons and keys are held, then done once in their order", async () => {
  const { document, heard, begin, key, byId } = early();
  key(document.body, { key: "n" });
  byId("level").click();
  key(document.body, { key: "]", shiftKey: true });
  byId("keep").click();
  assert.deepEqual(heard, []);
  await begin();
  assert.deepEqual(heard, ["key n", "click level", "key ] with shift", "click keep"]);
  byId("level").click();
  assert.deepEqual(heard.slice(4), ["click level"]);
});

test("what htmx would fetch waits for htmx, also when something inside is pressed", async () => {
  const { heard, begin, byId } = early();
  byId("more").firstElementChild.click();
  await begin();
  assert.deepEqual(heard, ["click more"]);
});

test("what was chosen is told once the page listens", async () => {
  const { window, document, heard, begin } = early();
  const choice = document.querySelector("select");
  choice.value = "b";
  choice.dispatchEvent(new window.Event("change", { bubbles: true }));
  await begin();
  assert.deepEqual(heard, ["change b"]);
});

test("links and what is typed into a field are left to the page", async () => {
  const { document, heard, begin, key, byId } = early();
  byId("link").click();
  byId("inside").click();
  key(document.querySelector("input"), { key: "x" });
  assert.deepEqual(heard, ["click link", "click inside", "key x"]);
  await begin();
  assert.equal(heard.length, 3);
});

test("what is gone by then is not pressed", async () => {
  const { heard, begin, byId } = early();
  byId("level").click();
  byId("level").remove();
  await begin();
  assert.deepEqual(heard, []);
});
