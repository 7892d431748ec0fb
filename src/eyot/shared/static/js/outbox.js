// What is entered is kept on the device until the server has it: a lost signal, an expired login or a stopped database loses nothing.
// Each entry carries a key of its own, so that one sent twice counts once; entries go off one after another, in their order.
import { newKey } from "./keys_of_entries.js";
import { forgetFile, keepFile, keptFile } from "./files.js";

/** @typedef {{url: string, values: Record<string, string>, at: number, file: string}} Entry what waits, and since when */

const SHELF = "eyot-outbox";
const ASIDE = "eyot-outbox-aside";
const RETRY_MS = 8000;
const OVERDUE_MS = 6000;

/** @returns {Entry[]} */
const read = () => JSON.parse(localStorage.getItem(SHELF) || "[]");
const write = (/** @type {Entry[]} */ kept) => localStorage.setItem(SHELF, JSON.stringify(kept));

/** @param {string} key */
function drop(key) {
  write(read().filter((entry) => entry.values.key !== key));
  forgetFile(key);
}

/** @param {string} words */
function tell(words) {
  const line = document.getElementById("outbox");
  if (!line) return;
  line.textContent = words;
  line.hidden = !words;
}

/** @returns {Entry[]} */
const aside = () => JSON.parse(localStorage.getItem(ASIDE) || "[]");

// What was entered for something that is not here any more is not sent again: it stays on the device until it was read.
/** @param {Entry} entry */
function setAside(entry) {
  localStorage.setItem(ASIDE, JSON.stringify([...aside(), entry]));
  write(read().filter((other) => other.values.key !== entry.values.key));
}

function tellAside() {
  if (!aside().length) return tell("");
  const said = (/** @type {Entry} */ entry) => Object.entries(entry.values).filter(([name]) => name !== "key" && name !== "entered").map(([, value]) => value);
  const words = aside().map((entry) => [entry.url, ...said(entry), entry.file].join(" ").trim());
  tell(`Not taken, for what it belongs to is not here any more, or not open to you: ${words.join("; ")}. `);
  const read = document.createElement("button");
  read.textContent = "I have read it";
  read.addEventListener("click", () => {
    aside().forEach((entry) => forgetFile(entry.values.key));
    localStorage.removeItem(ASIDE);
    tell("");
  });
  document.getElementById("outbox")?.append(read);
}

/**
 * Puts an entry on the shelf under a key of its own; gives back its values with the key.
 * @param {string} url
 * @param {Record<string, any>} values
 * @param {File} file
 */
export function shelve(url, values, file = null) {
  /** @type {Record<string, any>} */
  const kept = { key: newKey(), ...values };
  write([...read().filter((entry) => entry.values.key !== kept.key), { url, values: kept, at: Date.now(), file: file ? file.name : "" }]);
  return kept;
}

/**
 * A picture is shelved once the device has it.
 * @param {string} url
 * @param {Record<string, string>} values
 * @param {File} file
 */
export async function shelveFile(url, values, file) {
  const key = newKey();
  await keepFile(key, file);
  return shelve(url, { ...values, key }, file);
}

export const waiting = () => read().length;

/** What waits, oldest first. */
export const entries = read;

// What the role does not allow is told as plain text; another 403 is a token that ran out.
const refusal = (/** @type {Response} */ answer) => answer.status === 422 || (answer.status === 403 && answer.headers.get("content-type").includes("plain"));

// Has the server decided on the entry? A refusal is told on the page, and need not be sent again.
const taken = (/** @type {number} */ status) => (status >= 200 && status < 300) || status === 422 || status === 404;

/** @param {Entry} entry */
async function bodyOf(entry) {
  if (!entry.file) return new URLSearchParams(entry.values);
  const form = new FormData();
  Object.entries(entry.values).forEach(([name, value]) => form.append(name, value));
  const file = await keptFile(entry.values.key);
  if (file) form.append("photo", file, entry.file);
  return form;
}

/** @param {Entry} entry */
async function send(entry) {
  const token = JSON.parse(document.body.getAttribute("hx-headers") || "{}")["X-CSRFToken"];
  const answer = await fetch(entry.url, { method: "POST", headers: { "X-CSRFToken": token, "HX-Request": "true" }, body: await bodyOf(entry) });
  const refused = refusal(answer);
  if (refused) tell(entry.file || !answer.headers.get("content-type").includes("html") ? await answer.text() : "One answer was refused; the others stand.");
  if (answer.status === 404) setAside(entry);
  else if (refused || taken(answer.status)) drop(entry.values.key);
  return refused ? 422 : answer.status;
}

/** @type {Promise<boolean>} */
let sending = null;

/**
 * Sends what waits, oldest first; stops at the first that gets no answer. One run at a time. Tells whether all is sent.
 * @param {number} older send only what has waited for so many milliseconds
 */
export function sendAll(older = 0) {
  sending ??= run(older).finally(() => { sending = null; });
  return sending;
}

/** @param {number} older */
async function run(older) {
  if (document.querySelector("form.login")) return false;
  for (let [entry] = read(); entry; [entry] = read()) {
    if (Date.now() - entry.at < older) return false;
    const status = await send(entry).catch(() => 0);
    if (status === 401) return askForLogin();
    if (!taken(status)) return stillKept(status);
    document.dispatchEvent(new CustomEvent("eyot:sent"));
  }
  return true;
}

/** @param {number} status */
function stillKept(status) {
  const things = `${waiting()} ${waiting() > 1 ? "entries are" : "entry is"} kept on this device`;
  tell(status ? `${things}; the server does not answer just now.` : `${things} until there is a connection.`);
  document.dispatchEvent(new CustomEvent("eyot:sent"));
  return false;
}

function askForLogin() {
  tell("Your login has run out. Your answer is kept on this device; log in again and it is sent.");
  const here = location.pathname + location.search;
  setTimeout(() => { location.href = `/login/?next=${encodeURIComponent(here)}`; }, 1200);
  return false;
}

// Late entries are sent behind the page's back; where the page shows what was entered long ago, it is drawn anew.
/** @param {number} older */
async function catchUp(older) {
  if (!waiting() || !(await sendAll(older))) return;
  tellAside();
  if (!aside().length && !document.querySelector("[data-cutting]")) location.reload();
}

export function keepAnswers() {
  document.body.addEventListener("htmx:configRequest", (event) => {
    const values = Object.fromEntries(event.detail.formData);
    delete values.csrfmiddlewaretoken;
    if (values.key) shelve(event.detail.path, values);
  });
  document.body.addEventListener("htmx:afterRequest", (event) => {
    const key = event.detail.requestConfig.parameters.key;
    const { status } = event.detail.xhr;
    if (taken(status)) {
      if (key) drop(key);
      tell("");
    } else if (status === 401) askForLogin();
    else if (key) tell("Kept on this device; the server does not answer just now. It is sent when it is back.");
    else if (event.detail.requestConfig.verb !== "get") tell("The server does not answer just now. Nothing was changed; try again in a moment.");
  });
  addEventListener("online", () => catchUp(0));
  setInterval(() => catchUp(OVERDUE_MS), RETRY_MS);
  tellAside();
  catchUp(0);
}
