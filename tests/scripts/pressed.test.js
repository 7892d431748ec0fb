// Under a finger that is down nothing is drawn anew; what came meanwhile follows in its order.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage } from "./browser.js";

let page, done, timers, whenLifted;
let count = 0;
beforeEach(async () => {
  page = openPage(`<button><b>Save</b></button><p>words</p><label>kind <select></select></label>`);
  [done, timers] = [[], new Map()];
  globalThis.setTimeout = (work) => { timers.set(timers.size + 1, work); return timers.size; };
  globalThis.clearTimeout = (timer) => timers.delete(timer);
  const pressed = await import(`../../src/eyot/shared/static/js/pressed.js?${count += 1}`);
  pressed.holdStill();
  ({ whenLifted } = pressed);
});

const pointer = (type, on, how = {}) =>
  page.document.querySelector(on).dispatchEvent(Object.assign(new page.window.Event(type, { bubbles: true }), { isPrimary: true, button: 0, ...how }));
const comes = (name) => whenLifted(() => done.push(name));
const later = () => { for (const [timer, work] of [...timers]) if (timers.delete(timer)) work(); };

test("what comes while a button is down waits until it is lifted and its click is done", () => {
  pointer("pointerdown", "b");
  comes("first");
  comes("second");
  pointer("pointerup", "b");
  assert.deepEqual(done, []);
  later();
  assert.deepEqual(done, ["first", "second"]);
  comes("third");
  assert.deepEqual(done, ["first", "second", "third"]);
});

test("a second press before the first one's click is done holds on", () => {
  pointer("pointerdown", "b");
  comes("late");
  pointer("pointerup", "b");
  pointer("pointerdown", "b");
  later();
  assert.deepEqual(done, []);
  pointer("pointerup", "b");
  later();
  assert.deepEqual(done, ["late"]);
});

test("a finger that begins to scroll, a window that goes behind another and a menu that takes the release let go", () => {
  const ways = [() => pointer("pointercancel", "b"), () => page.window.dispatchEvent(new page.window.Event("blur")), () => pointer("pointermove", "p", { buttons: 0 })];
  for (const leave of ways) {
    pointer("pointerdown", "b");
    comes("held");
    leave();
    later();
  }
  assert.deepEqual(done, ["held", "held", "held"]);
  pointer("pointerdown", "b");
  comes("dragged");
  pointer("pointermove", "p", { buttons: 1 });
  later();
  assert.equal(done.length, 3);
});

test("words, lists that open, a second finger and the other button hold nothing", () => {
  pointer("pointerdown", "p");
  pointer("pointerdown", "select");
  pointer("pointerdown", "b", { isPrimary: false });
  pointer("pointerdown", "b", { button: 2 });
  comes("at once");
  assert.deepEqual(done, ["at once"]);
});

test("an answer to htmx is taken in when the finger is lifted", () => {
  const xhr = { onload: () => done.push("drawn") };
  page.document.body.dispatchEvent(new page.window.CustomEvent("htmx:beforeSend", { detail: { xhr } }));
  pointer("pointerdown", "b");
  xhr.onload();
  assert.deepEqual(done, []);
  pointer("pointerup", "b");
  later();
  assert.deepEqual(done, ["drawn"]);
});
