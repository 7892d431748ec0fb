// The line-up: rows dragged to order, strips zoomed and moved in step, two laid over each other.
import { all, around, field, find, origin } from "./dom.js";
import { inside, zoomed } from "./geometry.js";

const WHOLE = { width: 1200, height: 161 };
let view = { x: 0, y: 0, ...WHOLE };
let blinking = 0;

const rows = () => all("[data-row]");
// Side by side come the rows that are picked; while fewer than two are, the first four.
function layBeside() {
  const link = /** @type {HTMLAnchorElement} */ (find("[data-beside]")), specs = picked().map((row) => row.dataset.spec).filter(Boolean);
  link.dataset.all ??= link.search;
  link.search = specs.length > 1 ? `?${new URLSearchParams(specs.slice(0, 4).map((spec) => ["pane", spec]))}` : link.dataset.all;
}

const picked = () => rows().filter((row) => field("[data-pick]", row).checked);

/** @param {import("./geometry.js").View} to */
function look(to) {
  view = to;
  const box = `${view.x} ${view.y} ${view.width} ${view.height}`;
  all("[data-view]").forEach((strip) => strip.setAttribute("viewBox", box));
  all("[data-axis]").forEach((axis) => axis.setAttribute("viewBox", `${view.x} 0 ${view.width} 20`));
}

const zoom = (/** @type {number} */ factor, place = { x: 0.5, y: 0.5 }) => look(zoomed(view, factor, place, WHOLE));

function order() {
  const names = rows().map((row) => row.dataset.row).join(",");
  const address = new URL(location.href);
  address.searchParams.set("order", names);
  history.replaceState(null, "", address);
  all("[data-order]").forEach((kept) => { /** @type {HTMLInputElement} */ (kept).value = names; });
  const save = /** @type {HTMLAnchorElement} */ (find("[data-save]"));
  save.href = `${save.href.split("?")[0]}${address.search}`;
  field("[data-line-up] [name=query]").value = address.search.slice(1);
}

/**
 * @param {HTMLElement} row
 * @param {number} by
 */
function moveRow(row, by) {
  const others = rows(), to = others.indexOf(row) + by;
  if (to < 0 || to >= others.length) return;
  if (by < 0) others[to].before(row); else others[to].after(row);
  order();
}

// A row is dragged by its name; strips are moved in step by dragging them.
/** @param {HTMLElement} list */
function dragging(list) {
  /** @type {HTMLElement} */
  let held = null;
  /** @type {{x: number, y: number, view: import("./geometry.js").View, unit: number, tall: number}} */
  let from = null;
  list.addEventListener("pointerdown", (event) => {
    if (event.button || around(event, "button, input, a, label.pick input")) return;
    const strip = around(event, "[data-view]");
    if (strip) from = { x: event.clientX, y: event.clientY, view: { ...view }, unit: view.width / strip.getBoundingClientRect().width, tall: view.height / strip.getBoundingClientRect().height };
    else if (around(event, ".row-name") && event.pointerType === "mouse") held = around(event, "[data-row]");
    if (strip || held) { event.preventDefault(); list.setPointerCapture(event.pointerId); }
    held?.classList.add("held");
  });
  list.addEventListener("pointermove", (event) => {
    if (from) look(inside({ ...view, x: from.view.x - (event.clientX - from.x) * from.unit, y: from.view.y - (event.clientY - from.y) * from.tall }, WHOLE));
    if (!held) return;
    const over = rows().find((row) => row !== held && event.clientY > row.getBoundingClientRect().top && event.clientY < row.getBoundingClientRect().bottom);
    if (!over) return;
    const frame = over.getBoundingClientRect();
    if (event.clientY < frame.top + frame.height / 2) over.before(held); else over.after(held);
  });
  const end = () => { if (held) { held.classList.remove("held"); order(); } [held, from] = [null, null]; };
  list.addEventListener("pointerup", end);
  list.addEventListener("pointercancel", end);
  list.addEventListener("wheel", (event) => {
    const strip = around(event, "[data-view]");
    if (!strip) return;
    event.preventDefault();
    const frame = strip.getBoundingClientRect();
    zoom(event.deltaY < 0 ? 1.25 : 0.8, { x: (event.clientX - frame.left) / frame.width, y: (event.clientY - frame.top) / frame.height });
  }, { passive: false });
}

function tell() {
  const chosen = picked(), own = chosen.filter((row) => row.dataset.row.startsWith("e"));
  field("[data-pair]").disabled = chosen.length !== 2 || chosen.some((row) => !find("[data-view]", row));
  field("[data-tick]").disabled = !own.length;
  find("[data-picked]").textContent = chosen.length
    ? `Picked: ${chosen.map((row) => find(".number", row).textContent).join(", ")}.`
    : "Pick two to lay one over the other, or several to note one look for all of them.";
}

/** @param {number | string} at */
function wipe(at) {
  find("#wipe rect").setAttribute("width", String(at));
  find(".pair-strips .edge").setAttribute("d", `M${at} 0V${WHOLE.height}`);
}

const pair = () => /** @type {HTMLDialogElement} */ (document.getElementById("pair"));

function openPair() {
  const dialog = pair(), [first, second] = picked();
  const source = (/** @type {HTMLElement} */ row) => find("[data-view] image", row).getAttribute("href");
  find("[data-above]", dialog).setAttribute("href", source(first));
  find("[data-below]", dialog).setAttribute("href", source(second));
  find("[data-first]", dialog).textContent = find(".number", first).textContent;
  find("[data-second]", dialog).textContent = find(".number", second).textContent;
  const apart = find(`[data-between="${first.dataset.row} ${second.dataset.row}"]`);
  find("[data-apart]", dialog).textContent = apart ? apart.textContent : "";
  wipe(WHOLE.width / 2);
  field("[data-wipe]", dialog).value = String(WHOLE.width / 2);
  dialog.showModal();
}

/** @param {HTMLElement} button */
function blink(button) {
  if (blinking) {
    clearInterval(blinking);
    blinking = 0;
    wipe(field("[data-wipe]").value);
  } else {
    let over = false;
    blinking = window.setInterval(() => { over = !over; wipe(over ? WHOLE.width : 0); }, 700);
  }
  button.setAttribute("aria-pressed", String(Boolean(blinking)));
}

export function lineUp() {
  const list = find("[data-rows]");
  if (!list) return;
  dragging(list);
  document.addEventListener("change", (event) => { if (origin(event).matches("[data-pick]")) { tell(); layBeside(); } });
  document.addEventListener("click", (event) => {
    const by = around(event, "[data-move]");
    if (by) moveRow(by.closest("[data-row]"), Number(by.dataset.move));
    if (around(event, "[data-pair]")) openPair();
    if (around(event, "[data-print]")) print();
    if (around(event, "[data-blink]")) blink(around(event, "[data-blink]"));
    if (around(event, "[data-close]")) pair().close();
  });
  find("[data-wipe]").addEventListener("input", (event) => wipe(origin(event).value));
  pair().addEventListener("close", () => { if (blinking) blink(find("[data-blink]")); });
  addEventListener("keydown", (event) => {
    if (origin(event).matches("input, select, textarea") || event.ctrlKey || event.metaKey) return;
    if (event.key === "+" || event.key === "=") zoom(1.25);
    if (event.key === "-") zoom(0.8);
    if (event.key === "0") zoom(1 / 12);
  });
  tell();
}
