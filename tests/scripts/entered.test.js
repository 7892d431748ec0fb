// What is entered for a call outlives the panel around it.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage } from "./browser.js";

const form = (pastel) => `<details id="call"><summary>Make the call</summary><form>
    ${["seen", "likely", "absent"].map((value) => `<input type="radio" name="verdict-pastel" value="${value}"${value === pastel ? " checked" : ""}>`).join("")}
    ${["seen", "absent"].map((value) => `<input type="radio" name="verdict-clown" value="${value}"${value === "absent" ? " checked" : ""}>`).join("")}
    <details class="outside"><select name="outside"><option value="">none</option><option value="piebald">Piebald</option></select></details>
    <textarea name="note"></textarea><button type="submit">Keep this call</button></form></details>`;

const beside = (eggs = ["1", "2"]) => `<form class="beside-form" action="/clutches/W-04/3/beside/"><input type="hidden" name="key" value="${eggs.length}">
    <select name="what"><option>wider</option><option>thinner</option></select>
    <select name="other">${eggs.map((egg) => `<option>${egg}</option>`).join("")}</select><button>Save it</button></form>`;
const HOW = `<form id="how"><select data-stage><option>egg</option><option>shed</option></select><input type="radio" name="confidence" value="sure" checked><input type="radio" name="confidence" value="likely"></form>`;

let page, find;
let count = 0;
beforeEach(async () => {
  page = openPage(`<div id="judgement">${form("likely")}</div><div id="photos"></div>`);
  find = (selector) => page.document.querySelector(selector);
  const { keepEntered } = await import(`../../src/eyot/shared/static/js/entered.js?${count += 1}`);
  keepEntered();
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

test("a sibling and a sureness that were chosen stay as well, each in its form", () => {
  find("#judgement").innerHTML = HOW + form("likely") + beside();
  find("[name=what]").value = "thinner";
  find("[name=other]").value = "2";
  find("[name=confidence][value=likely]").checked = true;
  enter();
  drawnAnew(HOW + form("likely") + beside());
  assert.deepEqual(["what", "other"].map((name) => find(`[name=${name}]`).value), ["thinner", "2"]);
  assert.equal(find("[name=confidence]:checked").value, "likely");
  assert.equal(find("textarea").value, "Belly is checkered.");
});

test("what was sent is chosen no more, and takes nothing from the other forms; a sibling that is gone can't be chosen", () => {
  find("#judgement").innerHTML = form("likely") + beside();
  find("[name=what]").value = "thinner";
  enter();
  drawnAnew(form("likely") + beside(), { by: find(".beside-form") });
  assert.deepEqual([find("[name=what]").value, find("#call").open, find("textarea").value], ["wider", true, "Belly is checkered."]);
  find("[name=other]").value = "2";
  drawnAnew(form("likely") + beside(["1", "4"]));
  assert.equal(find("[name=other]").value, "1");
});

test("a form that somebody has begun to fill in is told from one that stands as it came", async () => {
  const { isBeingFilledIn } = await import("../../src/eyot/shared/static/js/entered.js");
  const root = find("#judgement");
  root.innerHTML = `<form><input type="hidden" name="key"><input name="weight" value="58"><input type="checkbox" name="sure" checked>${beside()}</form>`;
  find("[name=key]").value = "k";
  assert.equal(isBeingFilledIn(root), false);
  for (const [name, change, back] of [["weight", { value: "59" }, { value: "58" }], ["sure", { checked: false }, { checked: true }], ["what", { value: "thinner" }, { value: "wider" }]]) {
    Object.assign(find(`[name=${name}]`), change);
    assert.equal(isBeingFilledIn(root), true, name);
    Object.assign(find(`[name=${name}]`), back);
  }
  assert.equal(isBeingFilledIn(root), false);
});
