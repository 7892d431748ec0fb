// The box as it lies: eggs are dragged, or moved by arrow keys, to where they lie; each move is kept at once. The drawing says in
// `data-bed` where the eggs' middles may lie: left, top, width and height in its own units.
import { all, around, find, named, origin } from "./dom.js";
import { within } from "./geometry.js";
import { sendAll, shelve } from "./outbox.js";

/** @typedef {{x: number, y: number}} Place */

const STEP = 8;
/** @type {{egg: SVGElement, dx: number, dy: number, moved: boolean}} */
let dragged = null;

const drawing = () => /** @type {SVGSVGElement} */ (/** @type {unknown} */ (find(".box-drawing")));
const groupOf = (/** @type {SVGElement} */ egg) => find("g[transform]", egg);

/** Where the eggs' middles may lie. */
function bed() {
  const [left, top, width, height] = drawing().dataset.bed.split(" ").map(Number);
  return { left, top, width, height };
}

/**
 * Shares of the bed, from its upper left corner.
 * @param {Place} at
 */
function shareOf(at) {
  const { left, top, width, height } = bed();
  return { across: within((at.x - left) / width, 0, 1), down: within((at.y - top) / height, 0, 1) };
}

/**
 * @param {SVGElement} egg
 * @returns {Place}
 */
function placeOf(egg) {
  const [x, y] = groupOf(egg).getAttribute("transform").match(/-?[\d.]+/g).map(Number);
  return { x, y };
}

/**
 * @param {SVGElement} egg
 * @param {Place} to
 */
function put(egg, to) {
  const { left, top, width, height } = bed(), { across, down } = shareOf(to);
  const at = { x: left + across * width, y: top + down * height };
  const label = find("text", egg), below = Number(label.getAttribute("y")) - placeOf(egg).y;
  groupOf(egg).setAttribute("transform", `translate(${at.x.toFixed(1)} ${at.y.toFixed(1)})`);
  label.setAttribute("x", at.x.toFixed(1));
  label.setAttribute("y", (at.y + below).toFixed(1));
}

/** @param {SVGElement} egg */
function keep(egg) {
  const { across, down } = shareOf(placeOf(egg));
  const values = { across: across.toFixed(3), down: down.toFixed(3), on_top: egg.dataset.onTop, mark: egg.dataset.mark };
  shelve(egg.dataset.place, values, { words: `egg ${egg.dataset.number}: its place in the box` }).then(() => sendAll());
}

/** @param {PointerEvent} event */
const pointIn = (event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing().getScreenCTM().inverse());

const arranging = () => drawing()?.hasAttribute("data-arranging");

/** @param {Event} event */
const eggOf = (event) => /** @type {SVGElement} */ (/** @type {unknown} */ (around(event, "[data-place]")));

/** @param {PointerEvent} event */
function pick(event) {
  const egg = eggOf(event);
  if (!arranging() || !egg) return;
  event.preventDefault();
  const from = placeOf(egg), at = pointIn(event);
  dragged = { egg, dx: from.x - at.x, dy: from.y - at.y, moved: false };
  egg.setPointerCapture(event.pointerId);
  choose(egg);
}

/** @param {PointerEvent} event */
function drag(event) {
  if (!dragged) return;
  const at = pointIn(event);
  dragged.moved = true;
  put(dragged.egg, { x: at.x + dragged.dx, y: at.y + dragged.dy });
}

function drop() {
  if (dragged?.moved) keep(dragged.egg);
  dragged = null;
}

/** @param {SVGElement} egg */
function choose(egg) {
  const form = find("[data-egg-mark]");
  form.hidden = false;
  form.dataset.egg = egg.dataset.number;
  find("legend", form).textContent = `Egg ${egg.dataset.number}`;
  named(form, "mark").value = egg.dataset.mark;
  named(form, "on_top").checked = egg.dataset.onTop === "yes";
}

/** @param {HTMLElement} form */
function mark(form) {
  const egg = /** @type {SVGElement} */ (drawing().querySelector(`[data-number="${form.dataset.egg}"]`));
  egg.dataset.mark = named(form, "mark").value;
  egg.dataset.onTop = named(form, "on_top").checked ? "yes" : "no";
  egg.classList.toggle("on-top", named(form, "on_top").checked);
  keep(egg);
}

/** @type {Record<string, [number, number]>} */
const STEPS = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] };

/** @param {KeyboardEvent} event */
function nudge(event) {
  const egg = eggOf(event);
  if (!arranging() || !egg || !STEPS[event.key]) return;
  event.preventDefault();
  const { x, y } = placeOf(egg);
  put(egg, { x: x + STEPS[event.key][0], y: y + STEPS[event.key][1] });
  keep(egg);
}

/** @param {Event} event */
function press(event) {
  const egg = eggOf(event);
  if (!arranging() || !egg) return;
  event.preventDefault();
  choose(egg);
}

/** @param {Event} event */
function toggle(event) {
  const button = around(event, "[data-arrange]");
  if (!button) return;
  const on = drawing().toggleAttribute("data-arranging");
  button.setAttribute("aria-pressed", String(on));
  if (!on) all("[data-egg-mark]").forEach((form) => { form.hidden = true; });
}

// The box is drawn anew when somebody else changes something: the page listens, not what is replaced.
export function arrangeBox() {
  if (!find("[data-arrange]")) return;
  document.addEventListener("click", toggle);
  document.addEventListener("pointerdown", pick);
  document.addEventListener("pointermove", drag);
  document.addEventListener("pointerup", drop);
  document.addEventListener("keydown", nudge);
  document.addEventListener("click", press);
  document.addEventListener("change", (event) => { const form = around(event, "[data-egg-mark]"); if (form) mark(form); });
  // While an egg is being moved, the box is not drawn anew.
  document.body.addEventListener("htmx:beforeSwap", (event) => { if (arranging() && origin(event).closest(".live-box")) event.detail.shouldSwap = false; });
}
