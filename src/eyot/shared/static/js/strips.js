// The strip's page: a line along the back by touch, mouse or keys, a loupe under the finger, a quick strip while it is
// drawn, and a brush for the outline. Coordinates are pixels of the photo, as the drawing board's own.
import { all, field, find, named, origin } from "./dom.js";
import { distance, nearest, read, segment, smooth, thinned, within, written } from "./geometry.js";
import { LightMark } from "./light.js";

/** @typedef {import("./geometry.js").Point} Point */
/** @typedef {{sign: number, radius: number, points: Point[], shape: Element}} Stroke */
/** @typedef {{held?: number, trail?: Point[], stroke?: boolean}} Doing what a finger is about */

const SVG = "http://www.w3.org/2000/svg";
const MOST_DRAWN = 12;
const NEAR = 26; // pixels of the screen within which a point is taken hold of
const ON_LINE = 14;

/** @type {SVGSVGElement} */
let board;
/** @type {HTMLElement} */
let editor;
/** @type {Point[]} */
let points;
let chosen = -1;
let tool = "line";
/** @type {Stroke[]} */
const strokes = [];
/** @type {Point} */
let cross = null;
/** @type {LightMark} */
let marking = null;
/** @type {HTMLImageElement} */
let magnified = null;
let asked = false, asking = false, shownUrl = "";

const size = () => board.viewBox.baseVal;
const perPixel = () => size().width / board.getBoundingClientRect().width;

/**
 * @param {number} x
 * @param {number} y
 * @returns {Point}
 */
const onBoard = (x, y) => [within(x, 0, size().width - 1), within(y, 0, size().height - 1)];

/** @param {PointerEvent} event */
function placeOf(event) {
  const frame = board.getBoundingClientRect(), scale = perPixel();
  return onBoard((event.clientX - frame.left) * scale, (event.clientY - frame.top) * scale);
}

/** @param {string} path */
const drawSpine = (path) => all(".spine", board).forEach((spine) => spine.setAttribute("d", path));

function show() {
  const unit = perPixel(), framed = editor.dataset.framed;
  drawSpine(framed ? (points.length > 1 ? `M${points[0]}L${points[1]}` : "") : smooth(points));
  find(".points", /** @type {ParentNode} */ (board)).replaceChildren(...points.map((point, index) => {
    const dot = document.createElementNS(SVG, "circle");
    dot.setAttribute("cx", String(point[0]));
    dot.setAttribute("cy", String(point[1]));
    dot.setAttribute("r", String((index === chosen ? 9 : 6) * unit));
    dot.setAttribute("class", index === 0 ? "first" : index === chosen ? "chosen" : "");
    return dot;
  }));
  field("#points").value = written(points);
  if (!framed && points.length) {
    find("[data-told]").textContent = points.length < 6 ? `${points.length} of 6 to 14 points: on towards the tail.` : `${points.length} points. Drag one to mend the line; a tap on the line adds one.`;
  }
}

function draw() {
  show();
  preview();
}

// One request at a time; the newest line is asked for when the one before has come back.
async function preview() {
  if (points.length < (editor.dataset.framed ? 2 : 4)) return;
  asked = true;
  if (asking) return;
  asking = true;
  while (asked) {
    asked = false;
    const form = new FormData(/** @type {HTMLFormElement} */ (find("[data-line-form]")));
    const answer = await fetch(editor.dataset.preview, { method: "POST", body: form }).catch(/** @returns {Response} */ () => null);
    const image = /** @type {HTMLImageElement} */ (find("[data-quick]"));
    if (!answer || !image) break;
    if (answer.ok) {
      URL.revokeObjectURL(shownUrl);
      shownUrl = URL.createObjectURL(await answer.blob());
      image.src = shownUrl;
      image.hidden = false;
      all(".made .kept, .made .overlay, .made .none").forEach((other) => { other.hidden = true; });
      editor.dataset.previewed = String(Number(editor.dataset.previewed || 0) + 1);
    }
  }
  asking = false;
}

/** @param {Point} place where the finger is; null puts the loupe away */
function loupe(place) {
  const glass = /** @type {HTMLCanvasElement} */ (find(".loupe", editor));
  glass.hidden = !place;
  if (!place) return;
  magnified = magnified || Object.assign(new Image(), { src: find("image", board).dataset.full });
  const pen = glass.getContext("2d");
  const reach = 36 * perPixel(), scale = magnified.naturalWidth / size().width || 1;
  pen.fillStyle = "#8a8a8a";
  pen.fillRect(0, 0, glass.width, glass.height);
  pen.drawImage(magnified, (place[0] - reach) * scale, (place[1] - reach) * scale, 2 * reach * scale, 2 * reach * scale, 0, 0, glass.width, glass.height);
  pen.lineWidth = 3;
  for (const colour of ["#ffffff", "#111111"]) {
    pen.strokeStyle = colour;
    pen.beginPath();
    pen.moveTo(88, 70); pen.lineTo(88, 106); pen.moveTo(70, 88); pen.lineTo(106, 88);
    pen.stroke();
    pen.lineWidth = 1;
  }
  glass.classList.toggle("right", place[0] < size().width / 2);
}

/**
 * @param {Point} place
 * @returns {Doing}
 */
function startPoint(place) {
  const held = nearest(points, place, NEAR * perPixel());
  if (held >= 0) { chosen = held; return { held }; }
  if (editor.dataset.framed) {
    if (points.length < 2) points.push(place); else points[distance(points[0], place) < distance(points[1], place) ? 0 : 1] = place;
    chosen = points.length - 1;
    return { held: chosen };
  }
  const on = segment(points, place, ON_LINE * perPixel());
  if (on >= 0) { points.splice(on + 1, 0, place); chosen = on + 1; return { held: chosen }; }
  points.push(place);
  chosen = points.length - 1;
  return { held: chosen, trail: points.length === 1 ? [place] : null };
}

/** @param {Point} place */
function paint(place) {
  const last = strokes[strokes.length - 1];
  last.points.push(place);
  last.shape.setAttribute("points", last.points.map((point) => point.join(",")).join(" "));
}

/** @param {Point} place */
function startStroke(place) {
  const radius = Number(field("[data-brush-size]").value) * 5 * perPixel();
  const shape = document.createElementNS(SVG, "polyline");
  shape.setAttribute("class", tool);
  shape.setAttribute("stroke-width", String(2 * radius));
  find(".strokes", board).append(shape);
  strokes.push({ sign: tool === "animal" ? 1 : -1, radius, points: [place], shape });
  paint(place);
}

/**
 * A line drawn in one stroke of the finger.
 * @param {Doing} doing
 * @param {Point} place
 */
function follow(doing, place) {
  if (distance(place, doing.trail[doing.trail.length - 1]) > 4 * perPixel()) doing.trail.push(place);
  drawSpine(`M${doing.trail.join("L")}`);
  loupe(place);
  if (doing.trail.length <= 6) return;
  points = thinned(doing.trail, MOST_DRAWN);
  chosen = points.length - 1;
  field("#points").value = written(points);
  preview();
}

function pointers() {
  /** @type {Doing} */
  let doing = null;
  board.addEventListener("pointerdown", (event) => {
    if (event.button) return;
    event.preventDefault();
    board.focus({ preventScroll: true });
    board.setPointerCapture(event.pointerId);
    const place = placeOf(event);
    find(".cross", board).toggleAttribute("hidden", true);
    if (marking) { mark(place); return; }
    if (tool === "line") { doing = startPoint(place); loupe(place); draw(); } else { doing = { stroke: true }; startStroke(place); }
  });
  board.addEventListener("pointermove", (event) => {
    if (!doing) return;
    const place = placeOf(event);
    if (doing.stroke) paint(place);
    else if (doing.trail) follow(doing, place);
    else {
      points[doing.held] = place;
      loupe(place);
      draw();
    }
  });
  const end = () => { if (doing) { doing = null; loupe(null); draw(); } };
  board.addEventListener("pointerup", end);
  board.addEventListener("pointercancel", end);
}

const askForMark = () => { find("[data-light-words]").textContent = `tap ${marking.wanted} (arrow keys and Enter work too)`; };

/** @param {HTMLElement} button */
function startMarking(button) {
  marking = new LightMark(button.dataset.card);
  LightMark.hideChoices();
  askForMark();
}

/** @param {Point} place */
function mark(place) {
  const at = { x: place[0] / size().width, y: place[1] / size().height };
  if (!marking.take(at)) return askForMark();
  marking.send(at);
  marking = null;
  return undefined;
}

/** @type {Record<string, Point>} */
const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

function showCross() {
  const shape = find(".cross", board);
  shape.removeAttribute("hidden");
  shape.setAttribute("transform", `translate(${cross}) scale(${14 * perPixel()})`);
}

/** @param {KeyboardEvent} event */
function stepBy(event) {
  const by = (event.shiftKey ? 24 : 6) * perPixel(), step = STEPS[event.key], from = chosen >= 0 ? points[chosen] : cross;
  cross = onBoard(from[0] + by * step[0], from[1] + by * step[1]);
  if (chosen >= 0) points[chosen] = cross;
  loupe(cross);
}

// Arrow keys move the cross, or the chosen point; Enter sets a point; comma and full stop choose one.
/** @type {Record<string, (event: KeyboardEvent) => void>} */
const KEYS = {
  ...Object.fromEntries(Object.keys(STEPS).map((key) => [key, stepBy])),
  Enter: () => { if (marking) mark(cross); else { points.push(cross); chosen = -1; } },
  ",": () => choosePoint(-1),
  ".": () => choosePoint(1),
  Escape: () => { chosen = -1; loupe(null); },
  Delete: () => takePointAway(),
  Backspace: () => takePointAway(),
};

/** @param {number} by */
function choosePoint(by) {
  chosen = points.length ? (chosen + by + points.length) % points.length : -1;
  cross = points[chosen] || cross;
}

function takePointAway() {
  points.splice(chosen >= 0 ? chosen : points.length - 1, 1);
  chosen = -1;
}

function keys() {
  addEventListener("keydown", (event) => {
    if (event.key === "y" && !event.ctrlKey && !event.metaKey && !origin(event).matches("input, textarea, select")) find("[data-line-right]")?.click();
  });
  board.addEventListener("keydown", (event) => {
    if (!KEYS[event.key]) return;
    cross = cross || [size().width / 2, size().height / 2];
    KEYS[event.key](event);
    event.preventDefault();
    showCross();
    draw();
  });
}

/** @param {HTMLElement} button */
function choose(button) {
  tool = button.dataset.tool;
  all("[data-tool]").forEach((other) => other.setAttribute("aria-pressed", String(other === button)));
  find("[data-line-form]").hidden = tool !== "line";
  find("[data-brush-form]").hidden = tool === "line";
  board.classList.toggle("brushing", tool !== "line");
}

// What a job has made comes onto the board, which stays as it is: the outline, and the photo in a new light.
function showMade() {
  const made = document.getElementById("made"), image = find("image", board);
  if (!made) return;
  find(".found", board).setAttribute("points", made.dataset.outline);
  if (image.getAttribute("href") !== made.dataset.page) {
    image.setAttribute("href", made.dataset.page);
    image.dataset.full = made.dataset.full;
    magnified = null;
  }
}

function forms() {
  all("[data-tool]").forEach((button) => button.addEventListener("click", () => choose(button)));
  all("[data-card]").forEach((button) => button.addEventListener("click", () => startMarking(button)));
  find("[data-undo]").addEventListener("click", () => { points.pop(); chosen = -1; draw(); });
  all(".part input").forEach((input) => input.addEventListener("input", preview));
  field("#points").addEventListener("change", (event) => { points = read(origin(event).value); draw(); });
  find("[data-brush-form]")?.addEventListener("submit", (event) => {
    named(origin(event), "strokes").value = JSON.stringify(strokes.map(({ sign, radius, points: places }) => ({ sign, radius, points: written(places) })));
  });
}

export function editStrips() {
  editor = find("[data-strip-editor]");
  board = /** @type {SVGSVGElement} */ (editor?.querySelector(".drawing-board"));
  document.addEventListener("change", (event) => { if (origin(event).matches("[data-submit]")) origin(event).form.requestSubmit(); });
  if (!board) return;
  points = read(editor.dataset.points);
  pointers();
  keys();
  forms();
  show();
  document.body.addEventListener("htmx:afterSettle", showMade);
}
