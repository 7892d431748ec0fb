// What is entered for a call outlives the panel around it.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage } from "./browser.js";

const form = (pastel) => `<details id="call"><summary>Make the call</summary><form>
    ${["seen", "likely", "absent"].map((value) => `<input type="radio" name="verdict-pastel" value="${value}"${value === pastel ? " checked" : ""}>`).join("")}
    ${["seen", "absent"].map((value) => `<input type="radio" name="verdict-clown" value="${value}"${value === "absent" ? " checked" : ""}>`).join("")}
    <details class="outside"><select name="outside"><option value="">none</option><option value="piebald">Piebald</option></select></details>
    <textarea name="note"></textarea><button type="submit">Keep this call</button></form></details>`;

let page, find;
let count = 0;
beforeEach(async () => {
  page = openPage(`<div id="judgement">${form("likely")}</div><div id="photos"></div>`);
  find = (selector) => page.document.querySelector(selector);
  const { keepCall } = await import(`../../src/eyot/shared/static/js/call.js?${count += 1}`);
  keepCall();
});

const tell = (type, element, detail) => element.dispatchEvent(new page.window.CustomEvent(type, { bubbles: true, detail }));

/** The panel is drawn anew, as htmx does it. */
function drawnAnew(content, { by = page.document.body, status = 200 } = {}) {
  tell("htmx:beforeSwap", find("#judgement"), { target: find("#judgement"), requestConfig: { elt: by }, xhr: { status } });
  find("#judgement").innerHTML = content;
  tell("htmx:afterSwap", find("#judgement"), {});
}

function enter() {
  find("#call").open = true;
  find("[name=verdict-clown][value=seen]").checked = true;
  find("textarea").value = "Belly is checkered.";
  find("textarea").focus();
  find("textarea").setSelectionRange(5, 5);
}

const chosen = (gene) => find(`[name=verdict-${gene}]:checked`).value;

test("an answer that comes back late neither closes the form nor takes a word away", () => {
  enter();
  drawnAnew(form("likely"));
  assert.deepEqual([find("#call").open, find(".outside").open], [true, false]);
  assert.deepEqual([find("textarea").value, chosen("clown")], ["Belly is checkered.", "seen"]);
  assert.deepEqual([page.document.activeElement.name, page.document.activeElement.selectionStart], ["note", 5]);
});

test("what was not touched follows the new chances", () => {
  enter();
  drawnAnew(form("seen"));
  assert.equal(chosen("pastel"), "seen");
});

test("a gene from outside that was chosen stays, with its part open", () => {
  find("#call").open = find(".outside").open = true;
  find("select").value = "piebald";
  drawnAnew(form("likely"));
  assert.deepEqual([find(".outside").open, find("select").value], [true, "piebald"]);
});

test("a form that nobody opened stays shut", () => {
  drawnAnew(form("likely"));
  assert.deepEqual([find("#call").open, find("textarea").value], [false, ""]);
});

test("a call that was kept leaves an empty form; one that was refused leaves all that was entered", () => {
  enter();
  drawnAnew(form("likely"), { by: find("#call form"), status: 422 });
  assert.equal(find("textarea").value, "Belly is checkered.");
  drawnAnew(form("likely"), { by: find("#call form") });
  assert.deepEqual([find("#call").open, find("textarea").value], [false, ""]);
});

test("a panel without the form, for whom may not call, is drawn as it comes", () => {
  enter();
  drawnAnew("<p>Read only</p>");
  assert.equal(find("#judgement").textContent, "Read only");
});

test("a swap elsewhere changes nothing", () => {
  enter();
  tell("htmx:beforeSwap", find("#photos"), { target: find("#photos"), requestConfig: { elt: page.document.body }, xhr: { status: 200 } });
  find("textarea").value = "Longer.";
  tell("htmx:afterSwap", find("#photos"), {});
  assert.equal(find("textarea").value, "Longer.");
});
