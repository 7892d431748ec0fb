// Cutting: one egg at a time, everything through the outbox, so that a lost signal stops nobody.
import { all, around, field, find, origin } from "./dom.js";
import { entries, remaining, sendAll, shelve } from "./outbox.js";
import { takeChecked } from "./check.js";
import { afresh } from "./watch.js";

const OPEN = ["open", "pipped", "wrapped", "out"];
/** @type {HTMLElement} */
let page = null;

const eggs = () => all("[data-egg]", page);
const shown = () => eggs().find((egg) => !egg.hidden);

function tellKept() {
  const { arriving, waiting, aside } = remaining(), words = [];
  if (arriving) words.push("being written to this phone");
  if (waiting) words.push(`${waiting} kept on this phone, not sent yet`);
  if (aside) words.push(`${aside} not taken, see above`);
  find("[data-kept]", page).textContent = words.join("; ") || "everything is sent";
  find("[data-kept]", page).classList.toggle("late-word", words.length > 0);
}

/**
 * @param {string} url
 * @param {Record<string, string>} values
 * @param {string} words
 */
async function post(url, values, words) {
  const keeping = shelve(url, values, { words: `${document.title.split(" · ")[0]}, egg ${shown()?.dataset.egg}: ${words}` });
  tellKept();
  const kept = await keeping.finally(tellKept);
  sendAll().then(tellKept);
  return kept;
}

/**
 * @param {string} number
 * @param {boolean} [fromTop] as when one comes to it
 */
function show(number, fromTop = true) {
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
  if (fromTop) scrollTo(0, 0);
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
  const was = egg.dataset.state;
  markState(egg, button);
  post(button.parentElement.dataset.states, { state: egg.dataset.state, was }, button.dataset.words);
  show(egg.dataset.egg);
}

/** @param {HTMLElement} button */
function markLevel(button) {
  const look = /** @type {HTMLElement} */ (button.closest("[data-trait]"));
  all("[data-level]", look).forEach((other) => other.setAttribute("aria-pressed", String(other === button)));
  return look;
}

/** @param {HTMLElement} button */
async function answer(button) {
  const look = markLevel(button), url = /** @type {HTMLElement} */ (button.closest("[data-looks]")).dataset.looks;
  const values = { trait: look.dataset.trait, level: button.dataset.level, follows: look.dataset.last || "" };
  const kept = await post(url, values, `${find("legend", look).firstChild.textContent.trim()} ${button.textContent.trim()}`);
  look.dataset.last = kept.key;
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
  post(find("[data-guess]", egg).dataset.guess, { guess: words, note: note.value }, `${words} ${note.value}`.trim());
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
  const files = [...input.files], egg = shown()?.dataset.egg;
  input.value = "";
  for (const file of files) {
    const isKept = await takeChecked(input.dataset.camera, `${document.title.split(" · ")[0]}, egg ${egg}: photo`, file).finally(tellKept);
    if (isKept) countPhoto(input);
    else input.click();
  }
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
async function showWaiting() {
  for (const { url, values } of await entries()) {
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

// What another has changed meanwhile, or what was not taken, is drawn as the server has it; then what still waits over it.
/** @param {Document} fresh */
function redraw(fresh) {
  for (const egg of eggs()) {
    const now = find(`[data-egg="${egg.dataset.egg}"]`, fresh);
    if (!now) continue;
    egg.dataset.state = now.dataset.state;
    for (const part of ["[data-stands]", "[data-photos]", "[data-guessed]"]) find(part, egg).replaceWith(find(part, now));
    for (const look of all("[data-trait]", egg)) {
      const other = find(`[data-trait="${look.dataset.trait}"]`, now);
      if (!other) continue;
      look.dataset.last = other.dataset.last;
      all("[data-level]", look).forEach((one, at) => one.setAttribute("aria-pressed", all("[data-level]", other)[at].getAttribute("aria-pressed")));
    }
    find(`[data-to="${egg.dataset.egg}"]`, page).className = egg.dataset.state;
  }
  if (eggs().length !== all("[data-egg]", fresh).length) location.reload();
}

async function refresh() {
  const fresh = await afresh();
  if (!fresh) return;
  redraw(fresh);
  await showWaiting();
  if (shown()) show(shown().dataset.egg, false);
}

export function cutEggs() {
  page = find("[data-cutting]");
  if (!page || !eggs().length) return;
  page.addEventListener("click", press);
  page.addEventListener("change", (event) => { if (origin(event).matches("[data-camera]")) takePhotos(origin(event)); });
  document.addEventListener("eyot:counted", tellKept);
  document.addEventListener("eyot:changed", refresh);
  // Whoever puts the phone away has left the egg: a page in the background may be ended without a word.
  document.addEventListener("visibilitychange", () => { if (document.hidden && shown()) leave(shown()); });
  addEventListener("pagehide", () => { if (shown()) leave(shown()); });
  showWaiting().then(() => { if (shown()) show(shown().dataset.egg, false); });
  show(location.hash.replace("#egg-", "") || page.dataset.first || eggs()[0].dataset.egg);
  tellKept();
}
