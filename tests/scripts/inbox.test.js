// Filing by keys: photos are picked by arrows and clicks, an egg by its number; what was picked outlives a redrawing.
import assert from "node:assert/strict";
import { before, test } from "node:test";
import { openPage } from "./browser.js";
import { quiet } from "./page.js";

const shot = (name) => `<label class="shot"><input type="checkbox" name="photo" value="${name}"></label>`;
const egg = (number) => `<label class="egg-key"><input type="radio" name="egg" value="${100 + number}" data-number="${number}"></label>`;
const DESK = `<form data-desk><fieldset data-run>${["a", "b", "c", "d"].map(shot).join("")}<button type="button" data-pick-run></button></fieldset>
  <div class="inbox-side"><b data-picked></b><button type="button" data-pick-none></button><select name="clutch" data-clutch><option>W-01<option>W-02</select>
  <fieldset data-eggs-of="W-01">${[1, 2, 12].map(egg).join("")}</fieldset><fieldset data-eggs-of="W-02" hidden>${[3].map((n) => egg(n)).join("")}</fieldset>
  <details class="inbox-more"></details><button data-file></button></div></form>`;
const SENDING = `<div data-sending-part hidden><b data-sending-words></b><progress></progress><button data-pause></button><button data-retry></button><p data-sending-trouble></p></div>`;
const PAGE = `<section data-inbox-drop data-add="/add/" data-end="/end/">${SENDING}</section><div id="inbox">${DESK}</div>`;

let window, document, filed;
const all = (selector) => [...document.querySelectorAll(selector)];
const shots = () => all(".shot input");
const picked = () => shots().filter((one) => one.checked).map((one) => one.value).join("");
const words = () => document.querySelector("[data-file]").textContent;
const press = (on, key, more = {}) => on.dispatchEvent(new window.KeyboardEvent("keydown", { key, bubbles: true, cancelable: true, ...more }));
const clear = () => { document.querySelector("[data-pick-none]").click(); all("[name=egg]").forEach((one) => { one.checked = false; }); };

before(async () => {
  ({ window, document } = openPage(PAGE, "/inbox/"));
  filed = 0;
  document.addEventListener("submit", (event) => { event.preventDefault(); filed += 1; });
  globalThis.Element = window.Element;
  (await import("../../src/eyot/shared/static/js/inbox.js")).fillInbox();
  await quiet(); // until it knows what an earlier page left to send
});

test("arrows go from photo to photo, with shift they pick on", () => {
  clear();
  press(document.body, "ArrowRight");
  assert.equal(document.activeElement, shots()[0]);
  press(document.activeElement, "ArrowRight", { shiftKey: true });
  press(document.activeElement, "ArrowRight", { shiftKey: true });
  assert.equal(picked(), "abc");
  press(document.activeElement, "ArrowRight");
  press(document.activeElement, "ArrowRight");
  assert.equal(document.activeElement, shots()[3], "it stops at the last");
});

test("a click with shift picks all between, a button the whole run, another none", () => {
  clear();
  shots()[1].click();
  shots()[3].dispatchEvent(new window.MouseEvent("click", { bubbles: true, cancelable: true, shiftKey: true }));
  assert.equal(picked(), "bcd");
  document.querySelector("[data-pick-run]").click();
  assert.equal(picked(), "abcd");
  clear();
  assert.equal(picked(), "");
  assert.ok(document.querySelector(".inbox-side").hasAttribute("data-none"));
});

test("an egg's number is typed, one digit after the other, and Enter files", () => {
  clear();
  shots()[0].click();
  press(shots()[0], "1");
  assert.equal(words(), "File 1 photo with egg 1 of W-01");
  press(shots()[0], "2");
  assert.equal(words(), "File 1 photo with egg 12 of W-01");
  press(shots()[0], "2");
  assert.equal(words(), "File 1 photo with egg 2 of W-01", "122 is no egg: begun anew");
  press(shots()[0], "9");
  assert.equal(words(), "File 1 photo with egg 2 of W-01", "nor is 9");
  press(shots()[0], "Enter");
  assert.equal(filed, 1);
});

test("another clutch shows its own eggs", () => {
  const clutch = document.querySelector("[data-clutch]");
  clutch.value = "W-02";
  clutch.dispatchEvent(new window.Event("change", { bubbles: true }));
  assert.deepEqual(all("[data-eggs-of]").map((one) => one.hidden), [true, false]);
  assert.equal(words(), "File the picked");
  clutch.value = "W-01";
  clutch.dispatchEvent(new window.Event("change", { bubbles: true }));
});

test("what was picked outlives a redrawing while photos come in, not one that filed them", () => {
  const redraw = (path) => {
    const detail = { requestConfig: { path } };
    document.body.dispatchEvent(new window.CustomEvent("htmx:beforeSwap", { detail }));
    document.getElementById("inbox").innerHTML = DESK;
    document.body.dispatchEvent(new window.CustomEvent("htmx:afterSwap", { detail }));
  };
  clear();
  shots()[2].click();
  shots()[2].focus();
  press(shots()[2], "2");
  redraw("/in/withy-bed/inbox/arrivals/");
  assert.deepEqual([picked(), words(), document.activeElement.value], ["c", "File 1 photo with egg 2 of W-01", "c"]);
  redraw("/in/withy-bed/inbox/file/");
  assert.deepEqual([picked(), words()], ["", "File the picked"]);
});
