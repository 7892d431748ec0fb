// A reader sees what was answered, and presses nothing that is refused.
import assert from "node:assert/strict";
import { test } from "node:test";
import { openPage } from "./browser.js";

const PAGE = `<main><button id="back" hx-post="/back/"></button><div id="judgement"><div class="look"><button data-level="keyhole" aria-pressed="true"></button></div></div>
  <button data-ask="lobe_shape"></button><button data-accept></button><button data-go-at="/belly.jpg"></button>
  <section class="cut-egg"><button data-state-to="open"></button><input type="file"><textarea></textarea><button data-step="1"></button></section></main>`;
let count = 0;
async function seenBy(role) {
  const page = openPage(PAGE);
  page.document.body.dataset.role = role;
  const { onlyLook } = await import(`../../src/eyot/shared/static/js/readers.js?${count += 1}`);
  onlyLook();
  return page;
}
const shut = (page) => [...page.document.querySelectorAll("main [disabled]")].map((one) => one.outerHTML.match(/hx-post|data-[a-z-]+|file|textarea/)[0]);

test("what is refused is shut, what only shows is not", async () => {
  const page = await seenBy("reader");
  assert.deepEqual(shut(page), ["hx-post", "data-level", "data-ask", "data-accept", "data-state-to", "file", "textarea"]);
});

test("what is drawn anew is shut again", async () => {
  const page = await seenBy("reader");
  page.document.getElementById("judgement").innerHTML = '<div class="look"><button data-level="narrow"></button></div>';
  page.document.body.dispatchEvent(new page.window.Event("htmx:afterSettle", { bubbles: true }));
  assert.ok(page.document.querySelector("[data-level=narrow]").hasAttribute("disabled"));
});

test("others press everything", async () => {
  for (const role of ["helper", "keeper", "owner"]) assert.deepEqual(shut(await seenBy(role)), []);
});
