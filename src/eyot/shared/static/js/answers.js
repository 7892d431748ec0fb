// A level is chosen: it stands on the screen at once, is kept on the device, and goes off when the answers before it
// have come back, so that what is drawn last knows them all.
import { shelve } from "./outbox.js";

let before = Promise.resolve();
let waiting = 0;

function press(button) {
  const row = button.closest(".look");
  delete row.dataset.state;
  row.querySelectorAll(".level").forEach((other) => other.setAttribute("aria-pressed", String(other === button)));
  return row.dataset.look;
}

// What a photo suggests is accepted as one's own answer; an unsure suggestion counts as likely, not as sure.
function accept(url, button) {
  const photo = button.closest("[data-photo]").dataset.photo, how = "unsure" in button.dataset ? { confidence: "likely" } : {};
  const level = document.querySelector(`.look[data-look="${button.dataset.trait}"] [data-level="${button.dataset.level}"]`);
  if (level) press(level);
  button.disabled = true;
  send(url, { trait: button.dataset.trait, level: button.dataset.level, photo, ...how });
}

const answer = (url, button) => send(url, { trait: press(button), level: button.dataset.level });

// What the page shows, so that only rows that differ are drawn anew; a row with a fresh answer counts as differing.
const shown = () => [...document.querySelectorAll("#judgement .look")].map((row) => row.dataset.state ?? `${row.dataset.look}.`).join(" ");

function send(url, given) {
  const form = document.getElementById("how"), how = Object.fromEntries(new FormData(form));
  const values = shelve(url, { ...how, ...given });
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

// The finger stays where it was: the same level of the same look, drawn anew.
function keepFocus() {
  let kept = null;
  document.body.addEventListener("htmx:beforeSwap", () => {
    const level = document.activeElement.closest(".level");
    kept = level && [level.closest(".look").dataset.look, level.dataset.level];
  });
  document.body.addEventListener("htmx:afterSwap", () => {
    if (kept) document.querySelector(`.look[data-look="${kept[0]}"] [data-level="${kept[1]}"]`)?.focus({ preventScroll: true });
    kept = null;
  });
}

export function answerLooks() {
  const bench = document.querySelector("[data-bench]");
  if (!bench) return;
  bench.addEventListener("click", (event) => {
    const button = event.target.closest(".level");
    const suggested = event.target.closest("[data-accept]");
    if (button) answer(bench.dataset.bench, button);
    if (suggested) accept(bench.dataset.bench, suggested);
  });
  keepFocus();
}
