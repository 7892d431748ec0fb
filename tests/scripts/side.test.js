// Side by side: how panes are zoomed, moved and laid at one scale; what stands on the page at a place.
import assert from "node:assert/strict";
import { beforeEach, test } from "node:test";
import { openPage, row } from "./browser.js";

const shots = (name) => JSON.stringify({
  crown: { src: `/${name}/crown.jpg`, base: 2, words: `${name}, head`, is_whole: false, by_hand: false },
  belly: { src: `/${name}/full.jpg`, base: 1, words: `${name}, belly: no line here, move it by hand`, is_whole: true, by_hand: true },
});
const pane = (name) => `<figure data-pane data-shots='${shots(name)}'><div class="pane-view" tabindex="0" aria-label="${name}"><img></div><span data-words></span><span class="pane-tools" hidden><button data-turn="15"></button></span></figure>`;
const SIDE = `<div data-side-by-side data-place="crown" data-look="stamp" data-keep="pane=own" data-bench="/x/">
  <button data-to-place="crown" aria-pressed="false"></button><button data-to-place="belly" aria-pressed="false"></button>
  <a data-keeps href="/next/?pane=own"></a><input data-place-field value="crown">
  ${pane("one")}${pane("two")}
  <input type="checkbox" data-together checked><button data-zoom-by="1.25"></button><button data-afresh></button>
  <button data-blink aria-pressed="false"></button><button data-loupe aria-pressed="false"></button>
  <div id="judgement"><div data-at-place="crown">${row("blush", ["none"])}</div><div data-at-place="crown">${row("stamp", ["none"])}</div><div data-at-place="belly">${row("marks", ["none"])}</div></div>
  <p class="none-here" hidden></p></div>`;

let page, side;
let count = 0;
beforeEach(async () => {
  page = openPage(SIDE, "/clutches/W-02/2/side-by-side/?look=stamp");
  globalThis.history = page.window.history;
  globalThis.Image = class { async decode() {} };
  side = await import(`../../src/eyot/shared/static/js/side.js?${count += 1}`);
  Object.defineProperty(page.window.HTMLElement.prototype, "clientWidth", { value: 300, configurable: true });
  side.laySideBySide();
});

const find = (selector) => page.document.querySelector(selector);
const images = () => [...page.document.querySelectorAll("[data-pane] img")];
const words = () => [...page.document.querySelectorAll("[data-words]")].map((one) => one.textContent);
const press = (selector) => find(selector).dispatchEvent(new page.window.MouseEvent("click", { bubbles: true }));
const key = (name, where = page.document.body) => where.dispatchEvent(new page.window.KeyboardEvent("keydown", { key: name, bubbles: true, cancelable: true }));
const shown = () => [...page.document.querySelectorAll("[data-at-place]")].filter((one) => !one.hidden).map((one) => one.querySelector(".look").dataset.look);

test("a zoom keeps the point under the finger where it is", () => {
  const view = { x: 0.1, y: -0.2, zoom: 1.5, turn: 0 }, point = { x: 0.3, y: 0.05 };
  const near = side.zoomed(view, 2, point);
  assert.equal(near.zoom, 3);
  // A place on the animal, before and after: (point - view) / zoom.
  for (const axis of ["x", "y"]) assert.ok(Math.abs((point[axis] - near[axis]) / near.zoom - (point[axis] - view[axis]) / view.zoom) < 1e-12);
});

test("a zoom has its ends, and what is moved is moved in widths", () => {
  assert.equal(side.zoomed(side.afresh(), 1000).zoom, side.NEAREST);
  assert.equal(side.zoomed(side.afresh(), 1e-4).zoom, side.FARTHEST);
  assert.deepEqual(side.moved({ x: 0.1, y: 0, zoom: 2, turn: 5 }, 0.2, -0.1), { x: 0.1 + 0.2, y: -0.1, zoom: 2, turn: 5 });
});

test("pictures of different size are laid at one scale", () => {
  assert.match(side.laid({ x: 0.5, y: -0.1, zoom: 2, turn: 30 }, 2, 300), /translate\(150\.0px, -30\.0px\) rotate\(30deg\) scale\(4\.0000\)/);
  assert.match(side.laid({ x: 0, y: 0, zoom: 2, turn: 0 }, 1, 300), /scale\(2\.0000\)/);
});

test("every pane shows the place, and the looks that are seen there, the asked one first", () => {
  assert.deepEqual(images().map((image) => image.getAttribute("src")), ["/one/crown.jpg", "/two/crown.jpg"]);
  assert.deepEqual(shown(), ["blush", "stamp"]);
  assert.ok(find('[data-look="stamp"].look').parentElement.classList.contains("first"));
  assert.equal(find('[data-to-place="crown"]').getAttribute("aria-pressed"), "true");
});

test("another place is shown at once, and kept for the sibling and the address", () => {
  press('[data-to-place="belly"]');
  assert.deepEqual(images().map((image) => image.getAttribute("src")), ["/one/full.jpg", "/two/full.jpg"]);
  assert.deepEqual(words(), ["one, belly: no line here, move it by hand", "two, belly: no line here, move it by hand"]);
  assert.ok(images().every((image) => image.classList.contains("whole")));
  assert.equal(find(".pane-tools").hidden, false);
  assert.deepEqual(shown(), ["marks"]);
  assert.equal(new URL(find("[data-keeps]").href).search, "?pane=own&place=belly");
  assert.equal(new URL(page.window.location.href).searchParams.get("place"), "belly");
  assert.equal(find("[data-place-field]").value, "belly");
});

test("comma and full stop go from place to place and stay at the ends", () => {
  key(".");
  assert.equal(find("[data-side-by-side]").dataset.place, "belly");
  key(".");
  assert.equal(find("[data-side-by-side]").dataset.place, "belly");
  key(",");
  assert.equal(find("[data-side-by-side]").dataset.place, "crown");
});

test("panes move together, or apart when told", () => {
  key("ArrowRight", find(".pane-view"));
  assert.equal(images()[0].style.transform, images()[1].style.transform);
  find("[data-together]").checked = false;
  key("+", find(".pane-view"));
  assert.notEqual(images()[0].style.transform, images()[1].style.transform);
  press("[data-afresh]");
  assert.equal(images()[0].style.transform, images()[1].style.transform);
});

test("only the pane that is turned turns", () => {
  press('[data-to-place="belly"]');
  press("[data-turn]");
  assert.match(images()[0].style.transform, /rotate\(15deg\)/);
  assert.match(images()[1].style.transform, /rotate\(0deg\)/);
});

test("a blink shows the second in the place of the first, and back", () => {
  key("b");
  assert.equal(images()[0].getAttribute("src"), "/two/crown.jpg");
  assert.equal(words()[0], "two: two, head");
  assert.equal(find("[data-blink]").getAttribute("aria-pressed"), "true");
  key("b");
  assert.equal(images()[0].getAttribute("src"), "/one/crown.jpg");
});

test("who types is not taken for keys", () => {
  const input = page.document.createElement("input");
  page.document.body.append(input);
  key("b", input);
  assert.equal(images()[0].getAttribute("src"), "/one/crown.jpg");
});
