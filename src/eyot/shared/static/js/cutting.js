// Cutting: one egg at a time, everything through the outbox, so that a lost signal stops nobody.
import { all, around, field, find, origin } from "./dom.js";
import { entries, sendAll, shelve, shelveFile, waiting } from "./outbox.js";

const OPEN = ["open", "pipped", "wrapped", "out"];
/** @type {HTMLElement} */
let page = null;

const eggs = () => all("[data-egg]", page);
const shown = () => eggs().find((egg) => !egg.hidden);

function tellKept() {
  const left = waiting();
  find("[data-kept]", page).textContent = left ? `${left} kept on this phone, not sent yet` : "everything is sent";
  find("[data-kept]", page).classList.toggle("late-word", left > 0);
}

/**
 * @param {string} url
 * @param {Record<string, string>} values
 */
function post(url, values) {
  shelve(url, { entered: new Date().toISOString(), ...values });
  tellKept();
  sendAll().then(tellKept);
}

/** @param {string} number */
function show(number) {
  eggs().forEach((egg) => { egg.hidden = egg.dataset.egg !== number; });
  all("[data-to]", page).forEach((link) => link.toggleAttribute("aria-current", link.dataset.to === number));
  const egg = shown();
  if (!egg) return;
  find(".cut-open", egg).hidden = !OPEN.includes(egg.dataset.state);
  find(".cut-states", egg).hidden = OPEN.includes(egg.dataset.state);
  find(".cut-back", egg).hidden = egg.dataset.state !== "open";
  find(".cut-wrapped", egg).hidden = !["open", "pipped", "wrapped"].includes(egg.dataset.state);
  find(".cut-advice", egg).hidden = egg.dataset.state !== "wrapped";
  history.replaceState(null, "", `#egg-${number}`);
  scrollTo(0, 0);
}

/**
 * @param {HTMLElement} egg
 * @param {HTMLElement} button
 */
function markState(egg, button) {
  egg.dataset.state = button.dataset.stateTo;
  find("[data-stands]", egg).textContent = button.dataset.words;
  find(`[data-to="${egg.dataset.egg}"]`, page).className = egg.dataset.state;
}

/**
 * @param {HTMLElement} egg
 * @param {HTMLElement} button
 */
function stand(egg, button) {
  markState(egg, button);
  post(button.parentElement.dataset.states, { state: egg.dataset.state });
  show(egg.dataset.egg);
}

/** @param {HTMLElement} button */
function markLevel(button) {
  const look = /** @type {HTMLElement} */ (button.closest("[data-trait]"));
  all("[data-level]", look).forEach((other) => other.setAttribute("aria-pressed", String(other === button)));
  return look;
}

/** @param {HTMLElement} button */
function answer(button) {
  const look = markLevel(button);
  post(/** @type {HTMLElement} */ (button.closest("[data-looks]")).dataset.looks, { trait: look.dataset.trait, level: button.dataset.level });
}

// Once: sure; twice: maybe; three times: not named.
/** @param {HTMLElement} button */
function guess(button) {
  /** @type {Record<string, string>} */
  const next = { false: "true", true: "mixed", mixed: "false" };
  button.setAttribute("aria-pressed", next[button.getAttribute("aria-pressed")]);
}

/** @param {HTMLElement} egg */
function guessOf(egg) {
  const named = all("[data-gene]", egg).filter((button) => button.getAttribute("aria-pressed") !== "false");
  return named.map((button) => button.dataset.gene + (button.getAttribute("aria-pressed") === "mixed" ? "?" : "")).join(" ");
}

// What was guessed and written goes off when the egg is left.
/** @param {HTMLElement} egg */
function leave(egg) {
  const words = guessOf(egg), note = field("[data-note]", egg);
  if (!words && !note.value.trim()) return;
  post(find("[data-guess]", egg).dataset.guess, { guess: words, note: note.value });
  note.value = "";
  all("[data-gene]", egg).forEach((button) => button.setAttribute("aria-pressed", "false"));
}

/** @param {HTMLElement} input */
function countPhoto(input) {
  const count = find("[data-photos]", input.closest("label"));
  count.textContent = String(Number(count.textContent) + 1);
}

/** @param {HTMLInputElement} input */
async function takePhotos(input) {
  for (const file of [...input.files]) {
    await shelveFile(input.dataset.camera, { entered: new Date().toISOString() }, file);
    countPhoto(input);
    tellKept();
  }
  input.value = "";
  sendAll().then(tellKept);
}

/**
 * @param {HTMLElement} egg
 * @param {number} by
 */
function step(egg, by) {
  leave(egg);
  const next = eggs()[eggs().indexOf(egg) + by];
  if (next) show(next.dataset.egg);
}

/** @param {Event} event */
function press(event) {
  const egg = shown(), target = around(event, "button, [data-to], a[data-step]");
  if (!target) return;
  if (target.dataset.to) { event.preventDefault(); leave(egg); show(target.dataset.to); }
  if (target.dataset.stateTo) stand(egg, target);
  if (target.dataset.level) answer(target);
  if (target.dataset.gene) guess(target);
  if (target.tagName === "BUTTON" && target.dataset.step) step(egg, Number(target.dataset.step));
  if (target.tagName === "A" && target.dataset.step) goOn(event, egg, /** @type {Element} */ (target).getAttribute("href"));
}

// The sheet is drawn from what the server has: what waits goes off first, where there is a connection.
/**
 * @param {Event} event
 * @param {HTMLElement} egg
 * @param {string} address
 */
function goOn(event, egg, address) {
  event.preventDefault();
  leave(egg);
  sendAll().finally(() => { location.href = address; });
}

// A page opened without a signal is older than what was entered: what still waits is shown as if it were there.
function showWaiting() {
  for (const { url, values } of entries()) {
    const states = all("[data-states]", page).filter((one) => one.dataset.states === url);
    const button = states.map((one) => find(`[data-state-to="${values.state}"]`, one)).find(Boolean);
    if (button) markState(/** @type {HTMLElement} */ (button.closest("[data-egg]")), button);
    const looks = all("[data-looks]", page).find((one) => one.dataset.looks === url);
    const level = looks && find(`[data-trait="${values.trait}"] [data-level="${values.level}"]`, looks);
    if (level) markLevel(level);
    const camera = all("[data-camera]", page).find((one) => one.dataset.camera === url);
    if (camera) countPhoto(camera);
  }
}

export function cutEggs() {
  page = find("[data-cutting]");
  if (!page || !eggs().length) return;
  page.addEventListener("click", press);
  page.addEventListener("change", (event) => { if (origin(event).matches("[data-camera]")) takePhotos(origin(event)); });
  document.addEventListener("eyot:sent", tellKept);
  addEventListener("pagehide", () => { if (shown()) leave(shown()); });
  showWaiting();
  show(location.hash.replace("#egg-", "") || page.dataset.first || eggs()[0].dataset.egg);
  tellKept();
}
