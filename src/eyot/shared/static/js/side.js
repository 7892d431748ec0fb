// Side by side: every pane shows the same place on the body, at one scale; panes zoom, move and turn together or apart.
import { all, around, find, origin } from "./dom.js";
import { within } from "./geometry.js";

/** @typedef {{src: string, base: number, words: string, is_whole: boolean, by_hand: boolean}} Shot */
/** @typedef {{x: number, y: number, zoom: number, turn: number}} View the middle in widths of the pane, the zoom, the turn in degrees */

export const NEAREST = 8;
/** The glass's width in pixels; the style sheet has it too. */
const GLASS = 146;
export const FARTHEST = 0.25;
/** @type {() => View} */
export const afresh = () => ({ x: 0, y: 0, zoom: 1, turn: 0 });

/**
 * Moved by parts of the pane's width.
 * @param {View} view
 * @param {number} x
 * @param {number} y
 */
export const moved = (view, x, y) => ({ ...view, x: view.x + x, y: view.y + y });

/**
 * Zoomed so that a point of the pane stays where it is; the point in widths of the pane from its middle.
 * @param {View} view
 * @param {number} by
 * @param {{x: number, y: number}} point
 */
export function zoomed(view, by, point = { x: 0, y: 0 }) {
  const zoom = within(view.zoom * by, FARTHEST, NEAREST), grown = zoom / view.zoom;
  return { ...view, zoom, x: point.x - (point.x - view.x) * grown, y: point.y - (point.y - view.y) * grown };
}

/**
 * How the picture of a pane is laid: one scale for all, whatever size a picture has.
 * @param {View} view
 * @param {number} base
 * @param {number} width of the pane in pixels
 */
export const laid = (view, base, width) => `translate(0, -50%) translate(${(view.x * width).toFixed(1)}px, ${(view.y * width).toFixed(1)}px) rotate(${view.turn}deg) scale(${(view.zoom * base).toFixed(4)})`;

/** @type {WeakMap<HTMLElement, View>} */
const views = new WeakMap();
/** @type {WeakMap<HTMLElement, Record<string, Shot>>} */
const shots = new WeakMap();
let at = "";
let blinking = false;

const page = () => find("[data-side-by-side]");
const panes = () => all("[data-pane]");
const together = () => /** @type {HTMLInputElement} */ (find("[data-together]"))?.checked;

/**
 * @param {HTMLElement} image
 * @param {Shot} shot
 * @param {View} view
 * @param {number} width of the pane
 */
function put(image, shot, view, width) {
  if (image.getAttribute("src") !== shot.src) image.setAttribute("src", shot.src);
  image.classList.toggle("whole", shot.is_whole);
  image.style.transform = laid(view, shot.base, width);
}

/** @param {HTMLElement} pane */
function draw(pane) {
  const image = find("img", pane), shot = shots.get(pane)?.[at];
  if (!image || !shot) return;
  put(image, shot, views.get(pane), find(".pane-view", pane).clientWidth);
  find("[data-words]", pane).textContent = shot.words;
  find(".pane-tools", pane).hidden = !shot.by_hand;
}

/**
 * @param {HTMLElement} pane
 * @param {(view: View) => View} change
 */
function look(pane, change) {
  (together() ? panes() : [pane]).forEach((one) => { views.set(one, change(views.get(one))); draw(one); });
}

/** @param {string} place */
function goTo(place) {
  at = place;
  const root = page();
  root.dataset.place = place;
  all("[data-to-place]", root).forEach((button) => button.setAttribute("aria-pressed", String(button.dataset.toPlace === place)));
  find(`[data-to-place="${place}"]`, root)?.scrollIntoView?.({ inline: "center", block: "nearest" });
  panes().forEach((pane) => { views.set(pane, afresh()); draw(pane); });
  /** @type {HTMLInputElement} */ (find("[data-place-field]")).value = place;
  all("[data-keeps]").forEach((link) => { /** @type {HTMLAnchorElement} */ (link).search = `?${root.dataset.keep}&place=${place}`; });
  const address = new URL(location.href);
  address.searchParams.set("place", place);
  address.searchParams.delete("look");
  history.replaceState(history.state, "", address);
  showLooks();
}

// Of the looks those that are seen at this place; the one that was asked for stands first.
function showLooks() {
  const rows = all("[data-at-place]"), wanted = page().dataset.look;
  rows.forEach((row) => {
    row.hidden = row.dataset.atPlace !== at;
    row.classList.toggle("first", Boolean(wanted) && find(".look", row)?.dataset.look === wanted);
  });
  find(".none-here")?.toggleAttribute("hidden", rows.some((row) => !row.hidden));
}

// The pictures of the other places are fetched while nobody waits, so that a change of place shows at once.
async function fetchAhead() {
  for (const pane of panes()) {
    for (const shot of Object.values(shots.get(pane))) {
      const image = new Image();
      image.src = shot.src;
      await image.decode().catch(() => {});
    }
  }
}

function blink() {
  const [first, second] = panes();
  if (!second) return;
  blinking = !blinking;
  find("[data-blink]").setAttribute("aria-pressed", String(blinking));
  const shown = blinking ? second : first, shot = shots.get(shown)?.[at], image = find("img", first);
  if (!image || !shot) return;
  put(image, shot, views.get(shown), find(".pane-view", first).clientWidth);
  find("[data-words]", first).textContent = `${blinking ? `${find(".pane-view", second).getAttribute("aria-label")}: ` : ""}${shot.words}`;
}

/** @param {string} name @param {string} [wanted] */
function toggle(name, wanted) {
  const button = find(`[data-${name}]`), on = wanted ?? String(button.getAttribute("aria-pressed") !== "true");
  button.setAttribute("aria-pressed", on);
  return on === "true";
}

// The glass stands over the same point of every pane.
/** @param {PointerEvent} event */
function glass(event) {
  const frame = around(event, ".pane-view"), on = find("[data-loupe]")?.getAttribute("aria-pressed") === "true";
  all(".pane-glass").forEach((one) => one.remove());
  if (!frame || !on) return;
  const box = frame.getBoundingClientRect(), x = (event.clientX - box.left) / box.width, y = (event.clientY - box.top) / box.height;
  panes().forEach((pane) => {
    const view = find(".pane-view", pane), image = find("img", pane), own = views.get(pane), shot = shots.get(pane)?.[at];
    if (!image || !shot) return;
    const lens = document.createElement("div"), inside = document.createElement("div"), copy = /** @type {HTMLImageElement} */ (image.cloneNode());
    const width = view.clientWidth, height = view.clientHeight;
    lens.className = "pane-glass";
    lens.style.left = `${x * 100}%`;
    lens.style.top = `${y * 100}%`;
    inside.style.cssText = `position: absolute; width: ${width}px; height: ${height}px; left: ${GLASS / 2 - x * width}px; top: ${GLASS / 2 - y * height}px`;
    put(copy, shot, zoomed(own, 3, { x: x - 0.5, y: ((y - 0.5) * height) / width }), width);
    inside.append(copy);
    lens.append(inside);
    view.append(lens);
  });
}

/** @type {Map<number, {x: number, y: number}>} */
const fingers = new Map();

/** @param {PointerEvent} event */
function drag(event) {
  const pane = around(event, "[data-pane]"), before = fingers.get(event.pointerId);
  if (!before || !pane) return glass(event);
  const width = find(".pane-view", pane).clientWidth, now = { x: event.clientX, y: event.clientY };
  if (fingers.size === 2) {
    const other = [...fingers].find(([finger]) => finger !== event.pointerId)[1];
    const apart = (/** @type {{x: number, y: number}} */ one) => Math.hypot(one.x - other.x, one.y - other.y);
    look(pane, (view) => zoomed(view, apart(now) / Math.max(1, apart(before))));
  } else look(pane, (view) => moved(view, (now.x - before.x) / width, (now.y - before.y) / width));
  fingers.set(event.pointerId, now);
}

/** @param {WheelEvent} event */
function wheel(event) {
  const view = around(event, ".pane-view");
  if (!view) return;
  event.preventDefault();
  const box = view.getBoundingClientRect();
  const point = { x: (event.clientX - box.left - box.width / 2) / box.width, y: (event.clientY - box.top - box.height / 2) / box.width };
  look(view.closest("[data-pane]"), (own) => zoomed(own, event.deltaY < 0 ? 1.15 : 1 / 1.15, point));
}

const STEP = 0.06;
/** @type {Record<string, (view: View) => View>} */
const MOVES = {
  ArrowLeft: (view) => moved(view, STEP, 0),
  ArrowRight: (view) => moved(view, -STEP, 0),
  ArrowUp: (view) => moved(view, 0, STEP),
  ArrowDown: (view) => moved(view, 0, -STEP),
  "+": (view) => zoomed(view, 1.25),
  "=": (view) => zoomed(view, 1.25),
  "-": (view) => zoomed(view, 0.8),
  "<": (view) => ({ ...view, turn: view.turn - 5 }),
  ">": (view) => ({ ...view, turn: view.turn + 5 }),
};

/** @param {KeyboardEvent} event */
function key(event) {
  if (event.ctrlKey || event.metaKey || event.altKey || origin(event).matches("input:not([type=radio], [type=checkbox]), textarea, select")) return;
  const pane = around(event, "[data-pane]");
  if (pane && MOVES[event.key]) look(pane, MOVES[event.key]);
  else if (event.key === "b") blink();
  else if (event.key === "g") toggle("loupe");
  else if (event.key === "." || event.key === ",") step(event.key === "." ? 1 : -1);
  else return;
  event.preventDefault();
}

/** @param {number} by */
function step(by) {
  const places = all("[data-to-place]").map((button) => button.dataset.toPlace);
  goTo(places[within(places.indexOf(at) + by, 0, places.length - 1)]);
}

/** @param {MouseEvent} event */
function press(event) {
  const to = around(event, "[data-to-place]"), by = around(event, "[data-zoom-by]"), turn = around(event, "[data-turn]");
  if (to) goTo(to.dataset.toPlace);
  if (by) panes().forEach((pane) => { views.set(pane, zoomed(views.get(pane), Number(by.dataset.zoomBy))); draw(pane); });
  if (turn) { const pane = /** @type {HTMLElement} */ (turn.closest("[data-pane]")); views.set(pane, { ...views.get(pane), turn: views.get(pane).turn + Number(turn.dataset.turn) }); draw(pane); }
  if (around(event, "[data-afresh]")) panes().forEach((pane) => { views.set(pane, afresh()); draw(pane); });
  if (around(event, "[data-blink]")) blink();
  if (around(event, "[data-loupe]")) toggle("loupe");
}

export function laySideBySide() {
  const root = page();
  if (!root) return;
  panes().forEach((pane) => { shots.set(pane, JSON.parse(pane.dataset.shots)); views.set(pane, afresh()); });
  const keep = root.dataset.look;
  goTo(root.dataset.place);
  root.dataset.look = keep;
  root.addEventListener("click", press);
  root.addEventListener("wheel", wheel, { passive: false });
  root.addEventListener("pointerdown", (event) => { if (around(event, ".pane-view")) { fingers.set(event.pointerId, { x: event.clientX, y: event.clientY }); around(event, ".pane-view").setPointerCapture(event.pointerId); } });
  root.addEventListener("pointermove", drag);
  ["pointerup", "pointercancel"].forEach((name) => root.addEventListener(name, (event) => fingers.delete(/** @type {PointerEvent} */ (event).pointerId)));
  addEventListener("keydown", key);
  addEventListener("resize", () => panes().forEach(draw));
  document.body.addEventListener("htmx:afterSwap", showLooks);
  fetchAhead();
}
