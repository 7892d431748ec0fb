// Keys of the bench; the sheet of keys opens on "?".
import { all, around, find, origin } from "./dom.js";
import { within } from "./geometry.js";
import { showPart } from "./sections.js";

let current = "";

const rows = () => all("#judgement .look, #more .look").filter((row) => !row.closest("[hidden]"));

// A look that moved up among those worth asking is taken out of the others.
function dropDoubles() {
  all("#judgement .look").forEach((row) => find(`#more .look[data-look="${row.dataset.look}"]`)?.remove());
}

/** @param {HTMLElement} row */
function stand(row) {
  if (!row) return;
  current = row.dataset.look;
  rows().forEach((other) => other.classList.toggle("here", other === row));
  row.scrollIntoView({ block: "nearest" });
}

/** @param {number} by */
function move(by) {
  const looks = rows();
  const place = looks.findIndex((row) => row.dataset.look === current);
  stand(looks[within(place + by, 0, looks.length - 1)]);
}

/** @param {number} number */
function choose(number) {
  const row = rows().find((other) => other.dataset.look === current);
  if (!row) return;
  const levels = all(".level:not(.unseen)", row);
  (number === 0 ? find(".unseen", row) : levels[number - 1])?.click();
}

const jump = () => stand(find(".look.suggested"));

function openCall() {
  const call = /** @type {HTMLDetailsElement} */ (document.getElementById("call"));
  if (!call) return;
  showPart("call");
  call.open = true;
  find("summary", call).focus();
  call.scrollIntoView({ block: "nearest" });
}

// One look side by side with others, at its place on the body.
/** @param {string} look */
function sideBySide(look) {
  const { side } = find("[data-bench]").dataset, stage = /** @type {HTMLSelectElement} */ (find("[data-stage]"))?.value;
  if (side) location.assign(`${side}?${new URLSearchParams({ ...(look ? { look } : {}), ...(stage ? { stage } : {}) })}`);
}

const dialog = (/** @type {string} */ id) => /** @type {HTMLDialogElement} */ (document.getElementById(id));

/** @type {Record<string, () => void>} */
const ACTIONS = {
  j: () => move(1),
  k: () => move(-1),
  n: jump,
  c: openCall,
  g: () => find("[data-go-at]")?.click(),
  z: () => find("[data-zoom-open]")?.click(),
  m: () => find("[data-accept]:not(:disabled)")?.click(),
  y: () => find("[data-line-right]")?.click(),
  o: () => find("[data-next-open]")?.click(),
  d: () => find("[data-dictate]")?.click(),
  w: () => find(".why-link")?.click(),
  l: () => find("[data-line-up-link]")?.click(),
  s: () => sideBySide(current),
  p: () => find("[data-parents]")?.click(),
  "[": () => find("[data-previous]")?.click(),
  "]": () => find("[data-next]")?.click(),
  "?": () => dialog("keys")?.showModal(),
};

// From sibling to sibling the page stays where it was: the same look, the same height.
const PLACE = "eyot-place";
const clutchOf = (/** @type {string} */ path) => path.match(/^.*\/clutches\/[^/]+/)?.[0] ?? path;

function keepPlace() {
  addEventListener("pagehide", () => {
    sessionStorage.setItem(PLACE, JSON.stringify({ clutch: clutchOf(location.pathname), look: current, y: scrollY }));
  });
  const kept = JSON.parse(sessionStorage.getItem(PLACE) || "{}");
  if (kept.clutch !== clutchOf(location.pathname)) return;
  stand(rows().find((row) => row.dataset.look === kept.look));
  scrollTo(0, kept.y);
}

// The dialog for what is said aloud; what was understood is pressed there.
function dictation() {
  document.addEventListener("click", (event) => {
    if (!around(event, "[data-dictate]")) return;
    dialog("dictate").showModal();
    document.getElementById("spoken").focus();
  });
}

// The same page at another stage; whatever else its address says stays.
/** @param {string} stage */
function atStage(stage) {
  const address = new URL(location.href);
  address.searchParams.set("stage", stage);
  location.assign(address);
}

export function benchKeys() {
  dictation();
  if (!document.querySelector("[data-bench]")) return;
  keepPlace();
  addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    if (origin(event).matches("input:not([type=radio]), textarea, select")) return;
    if (/^[0-9]$/.test(event.key)) choose(Number(event.key));
    else if (ACTIONS[event.key]) ACTIONS[event.key]();
    else return;
    event.preventDefault();
  });
  document.body.addEventListener("click", (event) => {
    const beside = around(event, "[data-side-look]");
    if (beside) sideBySide(/** @type {HTMLElement} */ (beside.closest(".look")).dataset.look);
    const link = around(event, "[data-jump]");
    if (!link) return;
    event.preventDefault();
    const row = find(`.look[data-look="${link.dataset.jump}"]`);
    showPart("looks");
    stand(row);
    if (row) find(".level", row)?.focus();
  });
  document.body.addEventListener("htmx:afterSettle", () => {
    dropDoubles();
    stand(rows().find((row) => row.dataset.look === current));
  });
  document.body.addEventListener("change", (event) => {
    if (origin(event).matches("[data-stage]")) atStage(origin(event).value);
  });
}
