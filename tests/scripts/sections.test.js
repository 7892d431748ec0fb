// The bench in parts: one at a time on a phone, remembered from hatchling to hatchling.
import assert from "node:assert/strict";
import { test } from "node:test";
import { openPage } from "./browser.js";

const PARTS = ["look", "genes", "call"];
const BENCH = `<div data-bench="/x/"><details id="call"></details><nav>${PARTS.map((part) => `<button data-to-section="${part}" aria-pressed="false"></button>`).join("")}</nav></div>`;
let count = 0;

async function open(body = BENCH, kept = "") {
  const page = openPage(body);
  if (kept) page.window.sessionStorage.setItem("eyot-part", kept);
  const sections = await import(`../../src/eyot/shared/static/js/sections.js?${count += 1}`);
  sections.partBench();
  return { page, sections, bench: page.document.querySelector("[data-bench]") };
}
const pressed = (page) => [...page.document.querySelectorAll("[data-to-section]")].filter((one) => one.getAttribute("aria-pressed") === "true").map((one) => one.dataset.toSection);

test("it begins with the look", async () => {
  const { page, bench } = await open();
  assert.equal(bench.dataset.section, "look");
  assert.deepEqual(pressed(page), ["look"]);
});

test("a part is chosen, kept, and the call opened", async () => {
  const { page, bench } = await open();
  page.document.querySelector('[data-to-section="call"]').dispatchEvent(new page.window.MouseEvent("click", { bubbles: true }));
  assert.equal(bench.dataset.section, "call");
  assert.deepEqual(pressed(page), ["call"]);
  assert.equal(page.document.getElementById("call").open, true);
  assert.equal(page.window.sessionStorage.getItem("eyot-part"), "call");
});

test("the next hatchling opens at the same part", async () => {
  const { bench } = await open(BENCH, "genes");
  assert.equal(bench.dataset.section, "genes");
});

test("a page without parts stays whole", async () => {
  const { bench, sections } = await open('<div data-bench="/x/"></div>');
  sections.showPart("call");
  assert.equal(bench.dataset.section, undefined);
});
