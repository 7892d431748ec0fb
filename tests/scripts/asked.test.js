// The large photo at the place of the look that is asked.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage } from "./browser.js";

const BENCH = `<div data-bench="/x/"><figure><img id="large-photo" src="/whole.jpg"></figure><div id="next"><button data-go-at="/belly.jpg" aria-pressed="false"></button></div></div>`;
let page;
let count = 0;
beforeEach(async () => {
  page = openPage(BENCH);
  const { goWhereAsked } = await import(`../../src/eyot/shared/static/js/asked.js?${count += 1}`);
  goWhereAsked();
});

const source = () => page.document.getElementById("large-photo").getAttribute("src");
const button = () => page.document.querySelector("[data-go-at]");
const press = () => button().dispatchEvent(new page.window.MouseEvent("click", { bubbles: true }));
const settled = () => page.document.body.dispatchEvent(new page.window.Event("htmx:afterSettle", { bubbles: true }));

test("there and back", () => {
  press();
  assert.equal(source(), "/belly.jpg");
  assert.equal(button().getAttribute("aria-pressed"), "true");
  assert.ok(page.document.querySelector("figure.at-place"));
  press();
  assert.equal(source(), "/whole.jpg");
  assert.equal(page.document.querySelector("figure.at-place"), null);
});

test("it follows to where the next look is seen, and is whole where none is asked", () => {
  press();
  page.document.getElementById("next").innerHTML = '<button data-go-at="/crown.jpg" aria-pressed="false"></button>';
  settled();
  assert.equal(source(), "/crown.jpg");
  assert.equal(button().getAttribute("aria-pressed"), "true");
  page.document.getElementById("next").innerHTML = "";
  settled();
  assert.equal(source(), "/whole.jpg");
});

test("a photo that is whole stays whole", () => {
  settled();
  assert.equal(source(), "/whole.jpg");
});
