// Cutting: one egg at a time, everything through the outbox, so that a lost signal stops nobody.
import { sendAll, shelve, shelveFile, waiting } from "./outbox.js";

const OPEN = ["open", "pipped", "wrapped", "out"];
let page = null;

const eggs = () => [...page.querySelectorAll("[data-egg]")];
const shown = () => eggs().find((egg) => !egg.hidden);

function tellKept() {
  const left = waiting();
  page.querySelector("[data-kept]").textContent = left ? `${left} kept on this phone, not sent yet` : "everything is sent";
  page.querySelector("[data-kept]").classList.toggle("late-word", left > 0);
}

function post(url, values) {
  shelve(url, { entered: new Date().toISOString(), ...values });
  tellKept();
  sendAll().then(tellKept);
}

function show(number) {
  eggs().forEach((egg) => { egg.hidden = egg.dataset.egg !== String(number); });
  page.querySelectorAll("[data-to]").forEach((link) => link.toggleAttribute("aria-current", link.dataset.to === String(number)));
  const egg = shown();
  if (!egg) return;
  egg.querySelector(".cut-open").hidden = !OPEN.includes(egg.dataset.state);
  egg.querySelector(".cut-states").hidden = OPEN.includes(egg.dataset.state);
  egg.querySelector(".cut-back").hidden = egg.dataset.state !== "open";
  egg.querySelector(".cut-wrapped").hidden = !["open", "pipped", "wrapped"].includes(egg.dataset.state);
  egg.querySelector(".cut-advice").hidden = egg.dataset.state !== "wrapped";
  history.replaceState(null, "", `#egg-${number}`);
  scrollTo(0, 0);
}

function stand(egg, button) {
  egg.dataset.state = button.dataset.stateTo;
  egg.querySelector("[data-stands]").textContent = button.dataset.words;
  page.querySelector(`[data-to="${egg.dataset.egg}"]`).className = egg.dataset.state;
  post(button.parentElement.dataset.states, { state: egg.dataset.state });
  show(egg.dataset.egg);
}

function answer(egg, button) {
  const look = button.closest("[data-trait]");
  look.querySelectorAll("[data-level]").forEach((other) => other.setAttribute("aria-pressed", String(other === button)));
  post(button.closest("[data-looks]").dataset.looks, { trait: look.dataset.trait, level: button.dataset.level });
}

// Once: sure; twice: maybe; three times: not named.
function guess(button) {
  const next = { false: "true", true: "mixed", mixed: "false" };
  button.setAttribute("aria-pressed", next[button.getAttribute("aria-pressed")]);
}

function guessOf(egg) {
  const named = [...egg.querySelectorAll("[data-gene]")].filter((button) => button.getAttribute("aria-pressed") !== "false");
  return named.map((button) => button.dataset.gene + (button.getAttribute("aria-pressed") === "mixed" ? "?" : "")).join(" ");
}

// What was guessed and written goes off when the egg is left.
function leave(egg) {
  const words = guessOf(egg), note = egg.querySelector("[data-note]");
  if (!words && !note.value.trim()) return;
  post(egg.querySelector("[data-guess]").dataset.guess, { guess: words, note: note.value });
  note.value = "";
  egg.querySelectorAll("[data-gene]").forEach((button) => button.setAttribute("aria-pressed", "false"));
}

async function takePhotos(input) {
  const count = input.closest("label").querySelector("[data-photos]");
  for (const file of [...input.files]) {
    await shelveFile(input.dataset.camera, { entered: new Date().toISOString() }, file);
    count.textContent = Number(count.textContent) + 1;
    tellKept();
  }
  input.value = "";
  sendAll().then(tellKept);
}

function step(egg, by) {
  leave(egg);
  const all = eggs(), next = all[all.indexOf(egg) + by];
  if (next) show(next.dataset.egg);
}

function press(event) {
  const egg = shown(), target = event.target.closest("button, [data-to], a[data-step]");
  if (!target) return;
  if (target.dataset.to) { event.preventDefault(); leave(egg); show(target.dataset.to); }
  if (target.dataset.stateTo) stand(egg, target);
  if (target.dataset.level) answer(egg, target);
  if (target.dataset.gene) guess(target);
  if (target.tagName === "BUTTON" && target.dataset.step) step(egg, Number(target.dataset.step));
  if (target.tagName === "A" && target.dataset.step) goOn(event, egg, target.href);
}

// The sheet is drawn from what the server has: what waits goes off first, where there is a connection.
function goOn(event, egg, address) {
  event.preventDefault();
  leave(egg);
  sendAll().finally(() => { location.href = address; });
}

export function cutEggs() {
  page = document.querySelector("[data-cutting]");
  if (!page || !eggs().length) return;
  page.addEventListener("click", press);
  page.addEventListener("change", (event) => { if (event.target.matches("[data-camera]")) takePhotos(event.target); });
  document.addEventListener("eyot:sent", tellKept);
  addEventListener("pagehide", () => { if (shown()) leave(shown()); });
  show(location.hash.replace("#egg-", "") || page.dataset.first || eggs()[0].dataset.egg);
  tellKept();
}
