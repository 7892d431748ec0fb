// The box as it lies: eggs are dragged, or moved by arrow keys, to where they lie; each move is kept at once.
import { sendAll, shelve } from "./outbox.js";

const LEFT = 75, TOP = 62, WIDTH = 410, HEIGHT = 250, STEP = 8;
let drawing = null;
let dragged = null;

const inside = (value) => Math.min(1, Math.max(0, value));
const groupOf = (egg) => egg.querySelector("g[transform]");

function placeOf(egg) {
  const [x, y] = groupOf(egg).getAttribute("transform").match(/-?[\d.]+/g).map(Number);
  return { x, y };
}

function put(egg, x, y) {
  const at = { x: LEFT + inside((x - LEFT) / WIDTH) * WIDTH, y: TOP + inside((y - TOP) / HEIGHT) * HEIGHT };
  groupOf(egg).setAttribute("transform", `translate(${at.x.toFixed(1)} ${at.y.toFixed(1)})`);
  const label = egg.querySelector("text");
  label.setAttribute("x", at.x.toFixed(1));
  label.setAttribute("y", (at.y + 62).toFixed(1));
}

function keep(egg) {
  const { x, y } = placeOf(egg);
  shelve(egg.dataset.place, { across: inside((x - LEFT) / WIDTH).toFixed(3), down: inside((y - TOP) / HEIGHT).toFixed(3), on_top: egg.dataset.onTop, mark: egg.dataset.mark });
  sendAll();
}

function pointIn(event) {
  const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing().getScreenCTM().inverse());
  return { x: point.x, y: point.y };
}

const arranging = () => drawing()?.hasAttribute("data-arranging");

function pick(event) {
  const egg = event.target.closest("[data-place]");
  if (!arranging() || !egg) return;
  event.preventDefault();
  const from = placeOf(egg), at = pointIn(event);
  dragged = { egg, dx: from.x - at.x, dy: from.y - at.y, moved: false };
  egg.setPointerCapture(event.pointerId);
  choose(egg);
}

function drag(event) {
  if (!dragged) return;
  const at = pointIn(event);
  dragged.moved = true;
  put(dragged.egg, at.x + dragged.dx, at.y + dragged.dy);
}

function drop() {
  if (dragged?.moved) keep(dragged.egg);
  dragged = null;
}

function choose(egg) {
  const form = document.querySelector("[data-egg-mark]");
  form.hidden = false;
  form.dataset.egg = egg.dataset.number;
  form.querySelector("legend").textContent = `Egg ${egg.dataset.number}`;
  form.elements.mark.value = egg.dataset.mark;
  form.elements.on_top.checked = egg.dataset.onTop === "yes";
}

function mark(form) {
  const egg = drawing().querySelector(`[data-number="${form.dataset.egg}"]`);
  egg.dataset.mark = form.elements.mark.value;
  egg.dataset.onTop = form.elements.on_top.checked ? "yes" : "no";
  egg.classList.toggle("on-top", form.elements.on_top.checked);
  keep(egg);
}

const STEPS = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, -STEP], ArrowDown: [0, STEP] };

function nudge(event) {
  const egg = event.target.closest?.("[data-place]");
  if (!arranging() || !egg || !STEPS[event.key]) return;
  event.preventDefault();
  const { x, y } = placeOf(egg);
  put(egg, x + STEPS[event.key][0], y + STEPS[event.key][1]);
  keep(egg);
}

export function arrangeBox() {
  const button = document.querySelector("[data-arrange]");
  if (!button) return;
  drawing = () => document.querySelector(".box-drawing");
  button.addEventListener("click", () => {
    const on = drawing().toggleAttribute("data-arranging");
    button.setAttribute("aria-pressed", String(on));
    if (!on) document.querySelector("[data-egg-mark]").hidden = true;
  });
  document.addEventListener("pointerdown", pick);
  document.addEventListener("pointermove", drag);
  document.addEventListener("pointerup", drop);
  document.addEventListener("keydown", nudge);
  document.addEventListener("click", (event) => { if (arranging() && event.target.closest("[data-place]")) { event.preventDefault(); choose(event.target.closest("[data-place]")); } });
  document.addEventListener("change", (event) => { const form = event.target.closest("[data-egg-mark]"); if (form) mark(form); });
  // While an egg is being moved, the box is not drawn anew.
  document.body.addEventListener("htmx:beforeSwap", (event) => { if (arranging() && event.target.closest(".live-box")) event.detail.shouldSwap = false; });
}
