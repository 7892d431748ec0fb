// The inbox's page: pictures are chosen or dropped and sent; what waits is picked and filed by keys or by thumb.
import { all, around, field, find, origin } from "./dom.js";
import { within } from "./geometry.js";
import { newKey } from "./keys_of_entries.js";
import { Sending } from "./sending.js";

const token = () => JSON.parse(document.body.getAttribute("hx-headers") || "{}")["X-CSRFToken"];
const shots = () => /** @type {HTMLInputElement[]} */ (all(".shot input"));

/** @type {Record<string, string>} */
const STATES = { paused: "Paused", waiting: "No answer just now; it goes on by itself", sending: "Sending", sent: "All sent" };

/** @param {import("./sending.js").Told} told */
function showSending({ sent, total, keeping, state, troubles }) {
  const part = find("[data-sending-part]"), bar = /** @type {HTMLProgressElement} */ (/** @type {unknown} */ (find("progress", part)));
  part.hidden = !total;
  find("[data-sending-words]", part).textContent = `${STATES[state]}: ${sent} of ${total}${keeping ? `, ${keeping} still being kept on this device` : ""}`;
  bar.max = total || 1;
  bar.value = sent;
  find("[data-pause]", part).textContent = state === "paused" ? "Go on" : "Pause";
  find("[data-pause]", part).hidden = state === "sent";
  find("[data-retry]", part).hidden = state !== "waiting";
  const trouble = find("[data-sending-trouble]", part);
  trouble.hidden = !troubles.length;
  trouble.textContent = troubles.join(" ");
  document.body.dataset.sending = state;
}

/** @param {HTMLElement} region */
function takeFiles(region) {
  const headers = () => ({ "X-CSRFToken": token(), "HX-Request": "true", "X-Outbox": "yes" });
  const sending = new Sending({ add: region.dataset.add, end: region.dataset.end }, headers, showSending);
  region.addEventListener("change", (event) => {
    const input = origin(event);
    if (input.files) sending.add([...input.files]);
    input.value = "";
  });
  region.addEventListener("click", (event) => {
    if (around(event, "[data-pause]")) return sending.paused ? sending.go() : sending.pause();
    return around(event, "[data-retry]") ? sending.go() : undefined;
  });
  document.addEventListener("dragover", (event) => { event.preventDefault(); region.classList.add("over"); });
  document.addEventListener("dragleave", (event) => { if (!event.relatedTarget) region.classList.remove("over"); });
  document.addEventListener("drop", (event) => {
    event.preventDefault();
    region.classList.remove("over");
    sending.add([...event.dataTransfer.files]);
  });
  addEventListener("online", () => sending.go());
  addEventListener("beforeunload", (event) => { if (sending.keeping) event.preventDefault(); });
  sending.resume();
}

function showPicked() {
  const desk = find("[data-desk]");
  if (!desk) return;
  const count = shots().filter((shot) => shot.checked).length;
  const egg = field("[name=egg]:checked", desk), clutch = field("[name=clutch]", desk).value;
  find("[data-picked]", desk).textContent = String(count);
  find(".inbox-side", desk).toggleAttribute("data-none", !count);
  find("[data-file]", desk).textContent = egg ? `File ${count === 1 ? "1 photo" : `${count} photos`} with egg ${egg.dataset.number} of ${clutch}` : "File the picked";
}

function showEggs() {
  const clutch = field("[data-clutch]").value;
  all("[data-eggs-of]").forEach((eggs) => { eggs.hidden = eggs.dataset.eggsOf !== clutch; });
  all(".egg-key input").forEach((egg) => { /** @type {HTMLInputElement} */ (egg).checked = false; });
  typed = "";
  showPicked();
}

let typed = "";

/** @param {string} digits */
function chooseEgg(digits) {
  const egg = field(`[data-eggs-of="${field("[data-clutch]").value}"] [data-number="${Number(digits)}"]`);
  if (!egg) return false;
  egg.checked = true;
  typed = digits;
  return true;
}

/** @param {string} digit */
function typeEgg(digit) {
  if (!chooseEgg(typed + digit)) chooseEgg(digit);
  showPicked();
}

/**
 * @param {HTMLInputElement} from
 * @param {number} by
 * @param {boolean} picking
 */
function step(from, by, picking) {
  const row = shots(), next = row[within(row.indexOf(from) + by, 0, row.length - 1)];
  if (picking) { from.checked = true; next.checked = true; }
  next.focus();
  showPicked();
}

/** How many photos stand in a row of the grid. */
function perRow() {
  const row = all(".shot"), top = row[0]?.offsetTop;
  return Math.max(1, row.findIndex((shot) => shot.offsetTop !== top));
}

/** @type {Record<string, () => number>} */
const STEPS = { ArrowRight: () => 1, ArrowLeft: () => -1, ArrowDown: perRow, ArrowUp: () => -perRow() };

/** @param {KeyboardEvent} event */
function press(event) {
  if (!find("[data-desk]") || origin(event).closest("select, textarea, dialog") || event.ctrlKey || event.metaKey || event.altKey) return;
  const on = origin(event).matches(".shot input") ? origin(event) : null;
  if (STEPS[event.key] && (on || origin(event) === document.body)) {
    event.preventDefault();
    if (on) step(on, STEPS[event.key](), event.shiftKey);
    else shots()[0]?.focus();
  } else if (/^\d$/.test(event.key)) typeEgg(event.key);
  else if (event.key === "Enter" && on) {
    event.preventDefault();
    find("[data-file]").click();
  }
}

/** @type {HTMLInputElement} */
let last = null;

/** @param {MouseEvent} event */
function pick(event) {
  const shot = around(event, ".shot input");
  if (shot) {
    const row = shots(), ends = [row.indexOf(last), row.indexOf(shot)].sort((one, other) => one - other);
    if (event.shiftKey && ends[0] >= 0) row.slice(ends[0], ends[1] + 1).forEach((one) => { one.checked = shot.checked; });
    last = shot;
  }
  const run = around(event, "[data-pick-run]")?.closest("[data-run]");
  if (run) all(".shot input", run).forEach((one) => { /** @type {HTMLInputElement} */ (one).checked = true; });
  if (around(event, "[data-pick-none]")) shots().forEach((one) => { one.checked = false; });
  showPicked();
}

// The list is drawn anew while photos come in: what was picked and chosen stays, and so does the place of the keys.
/** @type {{picked: string[], egg: string, at: string, open: boolean}} */
let held = null;

/** @param {CustomEvent<HtmxDetail>} event */
function hold(event) {
  const isAsking = event.detail.requestConfig.path?.endsWith("/arrivals/");
  const here = /** @type {HTMLInputElement} */ (document.activeElement);
  held = {
    picked: isAsking ? shots().filter((shot) => shot.checked).map((shot) => shot.value) : [],
    egg: isAsking ? field("[name=egg]:checked")?.value : "",
    at: here?.matches?.(".shot input, .inbox-side *") ? here.value || "first" : "",
    open: /** @type {HTMLDetailsElement} */ (find(".inbox-more"))?.open,
  };
}

function putBack() {
  if (!held) return;
  const { picked, egg, at, open } = held;
  held = null;
  shots().forEach((shot) => { shot.checked = picked.includes(shot.value); });
  if (egg) { const key = field(`[name=egg][value="${egg}"]`); if (key) key.checked = true; }
  if (open) /** @type {HTMLDetailsElement} */ (find(".inbox-more"))?.setAttribute("open", "");
  if (at) (shots().find((shot) => shot.value === at) ?? shots()[0])?.focus();
  typed = "";
  showPicked();
}

export function fillInbox() {
  const region = find("[data-inbox-drop]");
  if (!region) return;
  const watching = document.createElement("input");
  Object.assign(watching, { type: "hidden", name: "watching", value: newKey() });
  region.append(watching);
  takeFiles(region);
  document.addEventListener("keydown", press);
  document.addEventListener("click", pick);
  document.addEventListener("change", (event) => {
    if (around(event, "[data-clutch]")) showEggs();
    else if (around(event, "[data-desk]")) showPicked();
  });
  document.body.addEventListener("htmx:beforeSwap", hold);
  document.body.addEventListener("htmx:afterSwap", putBack);
  showPicked();
}
