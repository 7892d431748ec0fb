// The strip's page: a line along the back by touch, mouse or keys, a loupe under the finger, a quick strip while it is
// drawn, and a brush for the outline. Coordinates are pixels of the photo, as the drawing board's own.
import { sendLight } from "./photos.js";

const SVG = "http://www.w3.org/2000/svg";
const MOST_DRAWN = 12;
const NEAR = 26; // pixels of the screen within which a point is taken hold of

let board, editor, points, chosen, tool, strokes, cross;
let asked = false, asking = false, shownUrl = "";

const perPixel = () => board.viewBox.baseVal.width / board.getBoundingClientRect().width;

function placeOf(event) {
  const frame = board.getBoundingClientRect(), size = board.viewBox.baseVal;
  const scale = perPixel();
  const x = (event.clientX - frame.left) * scale, y = (event.clientY - frame.top) * scale;
  return [Math.min(size.width - 1, Math.max(0, x)), Math.min(size.height - 1, Math.max(0, y))];
}

const distance = (a, b) => Math.hypot(a[0] - b[0], a[1] - b[1]);

// A smooth line through the points, as cubic curves; the strip itself is cut along the server's spline.
function smooth(all) {
  if (all.length < 2) return "";
  let path = `M${all[0]}`;
  for (let i = 0; i < all.length - 1; i += 1) {
    const [a, b, c, d] = [all[i - 1] || all[i], all[i], all[i + 1], all[i + 2] || all[i + 1]];
    path += `C${b[0] + (c[0] - a[0]) / 6},${b[1] + (c[1] - a[1]) / 6} ${c[0] - (d[0] - b[0]) / 6},${c[1] - (d[1] - b[1]) / 6} ${c}`;
  }
  return path;
}

function show() {
  const unit = perPixel();
  board.querySelectorAll(".spine").forEach((path) => path.setAttribute("d", editor.dataset.framed ? (points.length > 1 ? `M${points[0]}L${points[1]}` : "") : smooth(points)));
  const group = board.querySelector(".points");
  group.replaceChildren(...points.map((point, index) => {
    const dot = document.createElementNS(SVG, "circle");
    dot.setAttribute("cx", point[0]);
    dot.setAttribute("cy", point[1]);
    dot.setAttribute("r", (index === chosen ? 9 : 6) * unit);
    dot.setAttribute("class", index === 0 ? "first" : index === chosen ? "chosen" : "");
    return dot;
  }));
  document.getElementById("points").value = points.map((point) => point.map((number) => number.toFixed(1)).join(",")).join(" ");
  const words = document.querySelector("[data-told]");
  if (!editor.dataset.framed && points.length) {
    words.textContent = points.length < 6 ? `${points.length} of 6 to 14 points: on towards the tail.` : `${points.length} points. Drag one to mend the line; a tap on the line adds one.`;
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
    const form = new FormData(document.querySelector("[data-line-form]"));
    const answer = await fetch(editor.dataset.preview, { method: "POST", body: form }).catch(() => null);
    const image = document.querySelector("[data-quick]");
    if (!answer || !image) break;
    if (answer.ok) {
      URL.revokeObjectURL(shownUrl);
      shownUrl = URL.createObjectURL(await answer.blob());
      image.src = shownUrl;
      image.hidden = false;
      document.querySelectorAll(".made .kept, .made .overlay, .made .none").forEach((other) => { other.hidden = true; });
      editor.dataset.previewed = String(Number(editor.dataset.previewed || 0) + 1);
    }
  }
  asking = false;
}

function loupe(place) {
  const glass = editor.querySelector(".loupe"), image = board.querySelector("image");
  glass.hidden = !place;
  if (!place) return;
  const source = glass.source || (glass.source = Object.assign(new Image(), { src: image.dataset.full }));
  const size = board.viewBox.baseVal, pen = glass.getContext("2d");
  const reach = 36 * perPixel(), scale = source.naturalWidth / size.width || 1;
  pen.fillStyle = "#8a8a8a";
  pen.fillRect(0, 0, glass.width, glass.height);
  pen.drawImage(source, (place[0] - reach) * scale, (place[1] - reach) * scale, 2 * reach * scale, 2 * reach * scale, 0, 0, glass.width, glass.height);
  pen.strokeStyle = "#ffffff";
  pen.lineWidth = 3;
  for (const colour of ["#ffffff", "#111111"]) {
    pen.strokeStyle = colour;
    pen.beginPath();
    pen.moveTo(88, 70); pen.lineTo(88, 106); pen.moveTo(70, 88); pen.lineTo(106, 88);
    pen.stroke();
    pen.lineWidth = 1;
  }
  glass.classList.toggle("right", place[0] < size.width / 2);
}

function nearest(place) {
  const found = points.map((point) => distance(point, place)).reduce((best, far, index) => (far < best.far ? { far, index } : best), { far: Infinity, index: -1 });
  return found.far < NEAR * perPixel() ? found.index : -1;
}

// Between which two points a tap on the line lies; -1 off the line.
function segment(place) {
  let best = { far: 14 * perPixel(), index: -1 };
  for (let i = 0; i < points.length - 1; i += 1) {
    const [a, b] = [points[i], points[i + 1]];
    const along = Math.min(1, Math.max(0, ((place[0] - a[0]) * (b[0] - a[0]) + (place[1] - a[1]) * (b[1] - a[1])) / (distance(a, b) ** 2 || 1)));
    const far = distance(place, [a[0] + along * (b[0] - a[0]), a[1] + along * (b[1] - a[1])]);
    if (far < best.far) best = { far, index: i };
  }
  return best.index;
}

function thinned(trail) {
  const lengths = [0];
  for (let i = 1; i < trail.length; i += 1) lengths.push(lengths[i - 1] + distance(trail[i - 1], trail[i]));
  const whole = lengths[lengths.length - 1];
  return Array.from({ length: MOST_DRAWN }, (_, step) => {
    const at = (whole * step) / (MOST_DRAWN - 1);
    return trail[Math.max(0, lengths.findIndex((length) => length >= at - 1e-6))];
  });
}

function startPoint(place) {
  const held = nearest(place);
  if (held >= 0) { chosen = held; return { held }; }
  if (editor.dataset.framed) {
    if (points.length < 2) points.push(place); else points[distance(points[0], place) < distance(points[1], place) ? 0 : 1] = place;
    chosen = points.length - 1;
    return { held: chosen };
  }
  const on = segment(place);
  if (on >= 0) { points.splice(on + 1, 0, place); chosen = on + 1; return { held: chosen }; }
  points.push(place);
  chosen = points.length - 1;
  return { held: chosen, trail: points.length === 1 ? [place] : null };
}

function paint(place) {
  const last = strokes[strokes.length - 1];
  last.points.push(place);
  last.shape.setAttribute("points", last.points.map((point) => point.join(",")).join(" "));
}

function startStroke(place) {
  const radius = Number(document.querySelector("[data-brush-size]").value) * 5 * perPixel();
  const shape = document.createElementNS(SVG, "polyline");
  shape.setAttribute("class", tool);
  shape.setAttribute("stroke-width", 2 * radius);
  board.querySelector(".strokes").append(shape);
  strokes.push({ sign: tool === "animal" ? 1 : -1, radius, points: [place], shape });
  paint(place);
}

function pointers() {
  let doing = null;
  board.addEventListener("pointerdown", (event) => {
    if (event.button) return;
    event.preventDefault();
    board.focus({ preventScroll: true });
    board.setPointerCapture(event.pointerId);
    const place = placeOf(event);
    board.querySelector(".cross").toggleAttribute("hidden", true);
    if (marking) return mark(place);
    if (tool === "line") { doing = startPoint(place); loupe(place); draw(); } else { doing = { stroke: true }; startStroke(place); }
    return undefined;
  });
  board.addEventListener("pointermove", (event) => {
    if (!doing) return;
    const place = placeOf(event);
    if (doing.stroke) return paint(place);
    if (doing.trail) {
      if (distance(place, doing.trail[doing.trail.length - 1]) > 4 * perPixel()) doing.trail.push(place);
      board.querySelectorAll(".spine").forEach((path) => path.setAttribute("d", `M${doing.trail.join("L")}`));
      loupe(place);
      if (doing.trail.length > 6) { points = thinned(doing.trail); chosen = points.length - 1; preview(); document.getElementById("points").value = points.map((point) => point.map((n) => n.toFixed(1)).join(",")).join(" "); }
      return undefined;
    }
    points[doing.held] = place;
    loupe(place);
    draw();
    return undefined;
  });
  const end = () => { if (doing) { doing = null; loupe(null); draw(); } };
  board.addEventListener("pointerup", end);
  board.addEventListener("pointercancel", end);
}

// The light is marked on the same board: a tap on the card, four on a chart.
const PATCHES = ["brown", "bluish green", "black", "white"];
let marking = "", corners = [];

function startMarking(button) {
  [marking, corners] = [button.dataset.card, []];
  document.querySelectorAll("[data-card], [data-borrow]").forEach((other) => { other.hidden = true; });
  askForMark();
}

function askForMark() {
  const what = marking === "colour chart" ? `the ${PATCHES[corners.length]} corner patch of the chart` : `the ${marking}`;
  document.querySelector("[data-light-words]").textContent = `tap ${what} (arrow keys and Enter work too)`;
}

function mark(place) {
  const size = board.viewBox.baseVal, at = { x: place[0] / size.width, y: place[1] / size.height };
  if (marking === "colour chart") {
    corners.push(`${at.x.toFixed(4)},${at.y.toFixed(4)}`);
    if (corners.length < PATCHES.length) return askForMark();
  }
  sendLight(marking, at, corners);
  marking = "";
  return undefined;
}

const STEPS = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };

function showCross() {
  const mark = board.querySelector(".cross");
  mark.removeAttribute("hidden");
  mark.setAttribute("transform", `translate(${cross}) scale(${14 * perPixel()})`);
}

// Arrow keys move the cross, or the chosen point; Enter sets a point; comma and full stop choose one.
function keys() {
  board.addEventListener("keydown", (event) => {
    const size = board.viewBox.baseVal;
    cross = cross || [size.width / 2, size.height / 2];
    if (STEPS[event.key]) {
      const by = (event.shiftKey ? 24 : 6) * perPixel(), step = STEPS[event.key];
      const from = chosen >= 0 ? points[chosen] : cross;
      const to = [Math.min(size.width - 1, Math.max(0, from[0] + by * step[0])), Math.min(size.height - 1, Math.max(0, from[1] + by * step[1]))];
      cross = to;
      if (chosen >= 0) points[chosen] = to;
      loupe(to);
    } else if (event.key === "Enter" && marking) {
      mark(cross);
    } else if (event.key === "Enter") {
      points.push(cross);
      chosen = -1;
    } else if (event.key === "," || event.key === ".") {
      chosen = points.length ? (chosen + (event.key === "." ? 1 : -1) + points.length) % points.length : -1;
      cross = points[chosen] || cross;
    } else if (event.key === "Escape") {
      chosen = -1;
      loupe(null);
    } else if ((event.key === "Delete" || event.key === "Backspace") && points.length) {
      points.splice(chosen >= 0 ? chosen : points.length - 1, 1);
      chosen = -1;
    } else return;
    event.preventDefault();
    showCross();
    draw();
  });
}

function choose(button) {
  tool = button.dataset.tool;
  document.querySelectorAll("[data-tool]").forEach((other) => other.setAttribute("aria-pressed", String(other === button)));
  document.querySelector("[data-line-form]").hidden = tool !== "line";
  document.querySelector("[data-brush-form]").hidden = tool === "line";
  board.classList.toggle("brushing", tool !== "line");
}

// What a job has made comes onto the board, which stays as it is: the outline, and the photo in a new light.
function showMade() {
  const made = document.getElementById("made"), image = board.querySelector("image");
  if (!made) return;
  board.querySelector(".found").setAttribute("points", made.dataset.outline);
  if (image.getAttribute("href") !== made.dataset.page) {
    image.setAttribute("href", made.dataset.page);
    image.dataset.full = made.dataset.full;
    editor.querySelector(".loupe").source = null;
  }
}

function forms() {
  document.querySelectorAll("[data-tool]").forEach((button) => button.addEventListener("click", () => choose(button)));
  document.querySelectorAll("[data-card]").forEach((button) => button.addEventListener("click", () => startMarking(button)));
  document.querySelector("[data-undo]").addEventListener("click", () => { points.pop(); chosen = -1; draw(); });
  document.querySelectorAll(".part input").forEach((input) => input.addEventListener("input", preview));
  document.getElementById("points").addEventListener("change", (event) => { points = read(event.target.value); draw(); });
  document.querySelector("[data-brush-form]")?.addEventListener("submit", (event) => {
    event.target.elements.strokes.value = JSON.stringify(strokes.map(({ sign, radius, points: places }) => ({ sign, radius, points: places.map((place) => place.map((n) => n.toFixed(1)).join(",")).join(" ") })));
  });
}

const read = (text) => text.trim().split(/\s+/).filter(Boolean).map((place) => place.split(",").map(Number)).filter((place) => place.length === 2 && place.every(Number.isFinite));

export function editStrips() {
  editor = document.querySelector("[data-strip-editor]");
  board = editor?.querySelector(".drawing-board");
  document.addEventListener("change", (event) => { if (event.target.matches("[data-submit]")) event.target.form.requestSubmit(); });
  if (!board) return;
  [points, chosen, tool, strokes, cross] = [read(editor.dataset.points), -1, "line", [], null];
  pointers();
  keys();
  forms();
  show();
  document.body.addEventListener("htmx:afterSettle", showMade);
}
