// The page stays where it was: the same button has the keys when a part is drawn anew, and when the page comes back.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage, row } from "./browser.js";

const egg = (number) => `<tr><td><form method="post" action="/egg/${number}/"><select name="state"><option>open</option></select><button type="submit">save</button></form></td></tr>`;
const RECORD = (eggs) => `<p class="message">Saved.</p><table>${eggs.map(egg).join("")}</table><form method="post" action="/add/"><button type="submit">Add it</button></form>
  <details><summary>Incubation</summary><p>31.5</p></details>`;
const BENCH = `<div id="judgement">${row("lobes", ["attached", "floating"])}${row("belly", ["plain", "floating"])}</div>`;

let page, scrolled, staying;
let count = 0;
const find = (selector) => page.document.querySelector(selector);
const save = (number) => find(`form[action="/egg/${number}/"] button`);
const tell = (type, detail) => page.document.body.dispatchEvent(new page.window.CustomEvent(type, { bubbles: true, detail }));

/** A page that opens, with what the one before it left behind; where its buttons stand is told by their order. */
async function opens(body, path = "/record/", left = null, person = "7") {
  page = openPage(`<main>${body}</main>`, path);
  page.document.body.dataset.person = person;
  scrolled = [];
  globalThis.scrollBy = (_, by) => scrolled.push(by);
  page.window.Element.prototype.getBoundingClientRect = function top() { return { top: 100 * [...page.document.querySelectorAll("button")].indexOf(this) }; };
  if (left) page.window.sessionStorage.setItem("eyot-stays", left);
  staying = await import(`../../src/eyot/shared/static/js/staying.js?${count += 1}`);
  staying.stayInPlace();
}

/** Sends a form by its button from a page that is scrolled down, and answers what is left behind for the next page. */
function sends(button) {
  globalThis.scrollY = 700;
  button.closest("form").dispatchEvent(Object.assign(new page.window.Event("submit", { bubbles: true }), { submitter: button }));
  return page.window.sessionStorage.getItem("eyot-stays");
}

beforeEach(() => opens(RECORD([1, 2, 3])));

test("the finger stays on its level of its look when rows are drawn anew", async () => {
  await opens(BENCH);
  find('[data-look="belly"] [data-level="floating"]').focus();
  tell("htmx:beforeSwap", { target: find("#judgement") });
  find("#judgement").innerHTML = row("belly", ["plain", "floating"]) + row("lobes", ["attached", "floating"]);
  tell("htmx:afterSwap", {});
  assert.deepEqual([page.document.activeElement.dataset.level, page.document.activeElement.closest(".look").dataset.look], ["floating", "belly"]);
});

test("where a button is gone the one in its place of the list has the keys; one elsewhere keeps them", async () => {
  await opens(`<div id="list">${RECORD([1, 2, 3])}</div><a href="/else/">else</a>`);
  save(2).focus();
  tell("htmx:beforeSwap", { target: find("#list") });
  find("#list").innerHTML = RECORD([1, 3]);
  tell("htmx:afterSwap", {});
  assert.equal(page.document.activeElement, save(3));
  find("a").focus();
  tell("htmx:beforeSwap", { target: find("#list") });
  find("#list").innerHTML = RECORD([3]);
  tell("htmx:afterSwap", {});
  assert.equal(page.document.activeElement, find("a"));
});

test("a page that comes back stands where it was, by the button that was pressed", async () => {
  const left = sends(save(2));
  await opens(`<button>new above</button>${RECORD([1, 2, 3])}`, "/record/", left);
  assert.deepEqual([scrolled, page.document.activeElement], [[100], save(2)]);
  assert.ok("stayed" in page.document.documentElement.dataset);
  assert.equal(page.window.sessionStorage.getItem("eyot-stays"), null);
});

test("where the button is gone the place stays, and another's button does not get the keys", async () => {
  const left = sends(save(2));
  await opens(`<button>new above</button>${RECORD([1, 3])}`, "/record/", left);
  assert.deepEqual([scrolled, page.document.activeElement], [[100], page.document.body]);
});

test("it stands at its top where another page came, where the button is gone, or where something went wrong", async () => {
  const left = sends(find('form[action="/add/"] button'));
  for (const [body, path] of [[RECORD([1, 2]), "/animals/"], ["<p>All done.</p>", "/record/"], [`<p role="alert">No.</p>${RECORD([1, 2])}`, "/record/"]]) {
    await opens(body, path, left);
    assert.deepEqual([scrolled, page.document.activeElement], [[], page.document.body], body);
  }
});

const ANIMAL = `<form method="post" action="/animals/"><input name="name" value=""><input name="key" type="password"><textarea name="notes"></textarea>
  <label><input type="checkbox" name="egg" value="1"></label><label><input type="checkbox" name="egg" value="2"></label><button type="submit">Enter</button></form>`;

async function opensFor(person, body, path, left) {
  await opens(body, path, left, person);
  return page.window.sessionStorage.getItem("eyot-stays");
}

/** Types into the animal's form and sends it when the login has ended; what stays after the login's page. */
async function sentWithoutLogin() {
  await opensFor("7", ANIMAL, "/animals/new/");
  find("[name=name]").value = "Sedge";
  find("[name=key]").value = "secret";
  find("textarea").value = "Bought in spring.";
  find("[name=egg][value='2']").checked = true;
  const left = sends(find("button"));
  assert.doesNotMatch(left, /secret/);
  return opensFor("", `<p data-ended></p><form class="login" method="post"><input name="login"><button>Log in</button></form>`, "/login/", left);
}

test("what was sent when the login had ended stands in its form again after the next one", async () => {
  const left = await sentWithoutLogin();
  find("[name=login]").value = "keeper";
  assert.equal(sends(find("button")), left, "the login itself leaves nothing behind");
  const still = await opensFor("7", "<p>Season</p>", "/", left);
  await opensFor("7", ANIMAL, "/animals/new/", still);
  assert.deepEqual([find("[name=name]").value, find("textarea").value, find("[name=key]").value], ["Sedge", "Bought in spring.", ""]);
  assert.deepEqual([...page.document.querySelectorAll("[name=egg]")].map((one) => one.checked), [false, true]);
  assert.match(find("main").textContent, /what you entered stands in its form again, and is not saved yet/);
  assert.equal(page.window.sessionStorage.getItem("eyot-stays"), null);
});

test("another person does not see it, and what was taken is not entered again", async () => {
  const left = await sentWithoutLogin();
  assert.equal(await opensFor("8", ANIMAL, "/animals/new/", left), null);
  assert.equal(find("[name=name]").value, "");
  await opensFor("7", ANIMAL, "/animals/new/");
  find("[name=name]").value = "Sedge";
  await opensFor("7", ANIMAL, "/animals/new/", sends(find("button")));
  assert.equal(find("[name=name]").value, "");
});

test("a form that a script sends leaves nothing behind", () => {
  const form = save(1).closest("form");
  form.addEventListener("submit", (event) => event.preventDefault());
  form.dispatchEvent(Object.assign(new page.window.Event("submit", { bubbles: true, cancelable: true }), { submitter: save(1) }));
  assert.equal(page.window.sessionStorage.getItem("eyot-stays"), null);
});

test("what another changed closes no fold and leaves the keys", () => {
  find("details").open = true;
  save(3).focus();
  const fresh = page.document.createElement("main");
  fresh.innerHTML = RECORD([1, 2, 3, 4]);
  staying.replaced(find("main"), fresh);
  assert.deepEqual([find("details").open, page.document.activeElement], [true, save(3)]);
});

test("a key that is held presses a button once", () => {
  const press = (repeat) => save(1).dispatchEvent(new page.window.KeyboardEvent("keydown", { key: "Enter", bubbles: true, cancelable: true, repeat }));
  assert.deepEqual([press(false), press(true)], [true, false]);
});
