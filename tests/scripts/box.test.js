// Arranging the eggs of a box that is drawn anew meanwhile.
import assert from "node:assert/strict";
import { test } from "node:test";
import { openPage } from "./browser.js";

const BOX = `<section class="live-box"><svg class="box-drawing"></svg><button data-arrange aria-pressed="false">Arrange</button><form data-egg-mark></form></section>`;

test("the button arranges also after the box was drawn anew", async () => {
  const { document } = openPage(BOX);
  const { arrangeBox } = await import("../../src/eyot/shared/static/js/box.js");
  arrangeBox();
  document.querySelector(".live-box").outerHTML = BOX;
  const drawing = document.querySelector("svg"), button = document.querySelector("button");
  button.click();
  assert.deepEqual([drawing.hasAttribute("data-arranging"), button.getAttribute("aria-pressed")], [true, "true"]);
  button.click();
  assert.deepEqual([drawing.hasAttribute("data-arranging"), document.querySelector("form").hidden], [false, true]);
});
