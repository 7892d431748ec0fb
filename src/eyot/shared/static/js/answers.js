// A level is chosen: it stands on the screen at once, is kept on the device, and goes off when the answers before it
// have come back, so that what is drawn last knows them all.
import { all, around, find } from "./dom.js";
import { newKey } from "./keys_of_entries.js";
import { shelve } from "./outbox.js";

/** @type {Promise<unknown>} */
let before = Promise.resolve();
let waiting = 0;

/** @param {HTMLElement} button */
function press(button) {
  const row = /** @type {HTMLElement} */ (button.closest(".look"));
  delete row.dataset.state;
  all(".level", row).forEach((other) => other.setAttribute("aria-pressed", String(other === button)));
  return row.dataset.look;
}

// What a photo suggests is accepted as one's own answer; an unsure suggestion counts as likely, not as sure.
/**
 * @param {string} url
 * @param {HTMLInputElement} button
 */
function accept(url, button) {
  const photo = /** @type {HTMLElement} */ (button.closest("[data-photo]")).dataset.photo, how = "unsure" in button.dataset ? { confidence: "likely" } : {};
  const level = find(`.look[data-look="${button.dataset.trait}"] [data-level="${button.dataset.level}"]`);
  if (level) press(level);
  button.disabled = true;
  send(url, { trait: button.dataset.trait, level: button.dataset.level, photo, ...how }, button.textContent.trim());
}

/**
 * @param {string} url
 * @param {HTMLElement} button
 */
function answer(url, button) {
  const row = /** @type {HTMLElement} */ (button.closest(".look"));
  press(button);
  send(url, { trait: row.dataset.look, level: button.dataset.level, follows: row.dataset.last || "" }, `${find("b", row)?.textContent.trim()} ${button.textContent.trim()}`);
}

// What the page shows, so that only rows that differ are drawn anew; a row with a fresh answer counts as differing.
const shown = () => all("#judgement .look").map((row) => row.dataset.state ?? `${row.dataset.look}.`).join(" ");

/**
 * @param {string} url
 * @param {Record<string, string>} given
 * @param {string} words
 */
function send(url, given, words) {
  const form = /** @type {HTMLFormElement} */ (document.getElementById("how")), how = /** @type {Record<string, string>} */ (Object.fromEntries(new FormData(form)));
  const values = { key: newKey(), ...how, ...given };
  shelve(url, values, { words: `${document.title.split(" · ")[0]}: ${words}` }).catch(() => {});
  form.reset();
  const judgement = document.getElementById("judgement");
  judgement.setAttribute("aria-busy", "true");
  waiting += 1;
  // A failure is told by the outbox, which also sends what it kept.
  before = before.then(() => htmx.ajax("POST", url, { source: document.body, target: "#judgement", values, headers: { "X-Rows-Shown": shown() } })).catch(() => {}).finally(() => {
    waiting -= 1;
    if (!waiting) judgement.removeAttribute("aria-busy");
  });
}

// What another answered meanwhile: the rows that differ. In turn with one's own answers: of two requests at once htmx would drop one.
function catchUp() {
  if (waiting) return;
  before = before.then(() => (waiting ? undefined : htmx.ajax("GET", location.href, { source: document.body, target: "#judgement", headers: { "X-Rows-Shown": shown() } }))).catch(() => {});
}

export function answerLooks() {
  const bench = find("[data-bench]");
  if (!bench) return;
  document.addEventListener("eyot:changed", catchUp);
  bench.addEventListener("click", (event) => {
    const button = around(event, ".level");
    const suggested = around(event, "[data-accept]");
    // The look that is asked beside the photo is answered in its row, which stands below.
    const asked = around(event, "[data-ask]");
    if (asked) find(`.look[data-look="${asked.dataset.ask}"] [data-level="${asked.dataset.answer}"]`)?.click();
    if (button) answer(bench.dataset.bench, button);
    if (suggested) accept(bench.dataset.bench, suggested);
  });
}
