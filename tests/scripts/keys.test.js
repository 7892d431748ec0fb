// The bench by keys: from look to look, a level by its number, and nothing while somebody types.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage, row } from "./browser.js";

const BENCH = `<dialog id="keys"></dialog><dialog id="dictate"><input id="spoken"></dialog>
  <div data-bench="/looks/">
    <a class="why-link" href="#why">why</a>
    <div id="judgement">${row("lobes", ["attached", "floating"])}${row("stripe", ["none", "full"], " suggested")}</div>
    <details id="call"><summary tabindex="0">the call</summary><input name="note"></details>
    <details id="more">${row("belly", ["clean", "busy"])}</details>
  </div>`;

let page;
let count = 0;
const open = async (kept) => {
  page = openPage(BENCH);
  if (kept) page.window.sessionStorage.setItem("eyot-place", JSON.stringify(kept));
  const { benchKeys } = await import(`../../src/eyot/shared/static/js/keys.js?${count += 1}`);
  benchKeys();
};
beforeEach(() => open());

const key = (name, where = page.document.body, how = {}) => {
  const event = new page.window.KeyboardEvent("keydown", { key: name, bubbles: true, cancelable: true, ...how });
  where.dispatchEvent(event);
  return event.defaultPrevented;
};
const here = () => [...page.document.querySelectorAll(".here")].map((one) => one.dataset.look);
const clicks = () => {
  const found = [];
  page.document.addEventListener("click", (event) => found.push(event.target.dataset.level ?? event.target.className));
  return found;
};

test("j and k go from look to look and stay at the ends", () => {
  for (const [name, look] of [["j", "lobes"], ["j", "stripe"], ["j", "belly"], ["j", "belly"], ["k", "stripe"], ["k", "lobes"], ["k", "lobes"]]) {
    assert.equal(key(name), true);
    assert.deepEqual(here(), [look]);
  }
});

test("n goes to the look that tells most", () => {
  key("n");
  assert.deepEqual(here(), ["stripe"]);
});

test("a number chooses the level of the look that one stands on; 0 says it can't be seen", () => {
  key("n");
  const pressed = clicks();
  key("2");
  key("0");
  key("9");
  assert.deepEqual(pressed, ["full", "unseen"]);
});

test("without a look a number chooses nothing", () => {
  const pressed = clicks();
  key("1");
  assert.deepEqual(pressed, []);
});

test("keys are left to whoever types, to the browser's own, and to an open dialog", () => {
  const note = page.document.querySelector("[name=note]");
  assert.equal(key("j", note), false);
  assert.equal(key("j", page.document.body, { ctrlKey: true }), false);
  assert.equal(key("x"), false);
  key("?");
  assert.equal(page.document.getElementById("keys").hasAttribute("open"), true);
  assert.equal(key("j"), false);
  assert.deepEqual(here(), []);
});

test("c opens the call and w asks why", () => {
  key("c");
  assert.equal(page.document.getElementById("call").open, true);
  assert.equal(page.document.activeElement.tagName, "SUMMARY");
  const pressed = clicks();
  key("w");
  assert.deepEqual(pressed, ["why-link"]);
});

test("a sibling's page begins at the same look; another clutch's does not", async () => {
  await open({ clutch: "/clutches/W-04", look: "stripe", y: 0 });
  assert.deepEqual(here(), ["stripe"]);
  await open({ clutch: "/clutches/W-02", look: "stripe", y: 0 });
  assert.deepEqual(here(), []);
});

test("after a row is drawn anew one stands where one stood, and no look stands twice", () => {
  key("n");
  page.document.getElementById("judgement").innerHTML = row("stripe", ["none", "full"]) + row("belly", ["clean", "busy"]);
  page.document.body.dispatchEvent(new page.window.Event("htmx:afterSettle"));
  assert.deepEqual(here(), ["stripe"]);
  assert.equal(page.document.querySelectorAll('[data-look="belly"]').length, 1);
});
