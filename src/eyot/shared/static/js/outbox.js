// What is entered is kept on the device until the server has it: a lost signal, an expired login or a stopped database loses nothing.
// Each entry carries a key of its own, so that one sent twice counts once; entries go off one after another, in their order, from one
// page at a time. What the server does not take is set aside with its reason, until the keeper has decided.
import { all, find } from "./dom.js";
import { isBeingFilledIn } from "./entered.js";
import { newKey } from "./keys_of_entries.js";
import { entriesOf, forget, keep, moveOld } from "./shelf.js";

/** @typedef {import("./shelf.js").Entry} Entry */
/** @typedef {{status: number, text: string, stands: string}} Answer */

const RETRY_MS = 8000;
const OVERDUE_MS = 6000;
const BREAKS_AT_MOST = 3;
const STALE = -1;
const OTHER_LOGIN = "somebody else is logged in by now; log in as yourself and it is sent";
const WAITS = [STALE, 0, 408, 425, 429, 502, 503, 504, 507];

const person = () => document.body.dataset.person || "";
const isLogin = () => Boolean(document.querySelector("form.login"));

/** What this person has on the device, as it was last read; and how many entries are on their way to it. */
let left = { waiting: 0, aside: 0 };
let arriving = 0;

// The page says in its body how many entries are not sent, from the moment in which they are entered.
const show = () => { document.body.dataset.unsent = String(arriving + left.waiting); };

/** @param {number} arrived how many that were on their way to the device are on it by now */
async function count(arrived = 0) {
  const own = await entriesOf(person());
  arriving -= arrived;
  const aside = own.filter((entry) => entry.aside).length;
  left = { waiting: own.length - aside, aside };
  show();
  document.dispatchEvent(new CustomEvent("eyot:counted"));
  return own;
}

/** How many entries are on their way to the device, wait to be sent, and were not taken. */
export const remaining = () => ({ arriving, ...left });

/** This page, among all that were ever opened. */
const PAGE = newKey();

/** What waits to be sent, oldest first. */
export const entries = async () => (await entriesOf(person())).filter((entry) => !entry.aside);

// What a page holds back is being decided on there; once that page is gone it goes off like the rest.
const free = async () => (await entries()).filter((entry) => entry.held !== PAGE);

/**
 * Lets an entry go off that was held back.
 * @param {string} key
 */
export async function release(key) {
  const entry = (await entriesOf(person())).find((one) => one.key === key);
  if (entry) await keep({ ...entry, held: "" });
}

/** @param {string} words */
function tell(words) {
  const line = document.getElementById("outbox");
  if (!line) return;
  line.textContent = words;
  line.hidden = !words;
}

/**
 * Keeps what was entered, under a key of its own; gives back its values with the key once the device has it.
 * @param {string} url
 * @param {Record<string, string>} values
 * @param {{words?: string, file?: File, held?: boolean}} [more] what it is in words; its picture; is it held back until it is released
 */
export async function shelve(url, values, { words = "", file = null, held = false } = {}) {
  const kept = { key: newKey(), entered: new Date().toISOString(), ...values };
  const entry = { key: kept.key, url, values: kept, at: Date.now(), person: person(), words, file, name: file?.name || "", aside: "", stands: "", tries: 0, held: held ? PAGE : "" };
  arriving += 1;
  show();
  try {
    await keep(entry);
  } catch (reason) {
    arriving -= 1;
    show();
    tell("This device keeps nothing (its storage is full, or closed to pages). This was not kept: try again when there is room.");
    throw reason;
  }
  await count(1);
  return kept;
}

/** @param {Entry} entry */
function bodyOf(entry) {
  const values = { ...entry.values, sent: new Date().toISOString() };
  if (!entry.file) return new URLSearchParams(values);
  const form = new FormData();
  Object.entries(values).forEach(([name, value]) => form.append(name, value));
  form.append("photo", entry.file, entry.name);
  return form;
}

const token = () => JSON.parse(document.body.getAttribute("hx-headers") || "{}")["X-CSRFToken"];

// The form token of a page grows stale, when somebody logs in again in another window: a fresh one, if it is still the same person.
/** @param {Entry} entry */
async function withFreshToken(entry) {
  const answer = await fetch("/token/", { headers: { "HX-Request": "true" } });
  if (!answer.ok) return { status: answer.status, text: "", stands: "" };
  const fresh = await answer.json();
  if (fresh.person !== person()) return { status: 0, text: OTHER_LOGIN, stands: "" };
  document.body.setAttribute("hx-headers", JSON.stringify({ "X-CSRFToken": fresh.token }));
  return post(entry);
}

/**
 * @param {Entry} entry
 * @returns {Promise<Answer>}
 */
async function post(entry) {
  const headers = { "X-CSRFToken": token(), "HX-Request": "true", "X-Outbox": "yes" };
  const answer = await fetch(entry.url, { method: "POST", headers, body: bodyOf(entry) });
  const isPlain = (answer.headers.get("content-type") || "").includes("plain");
  if (answer.status === 403 && !isPlain) return { status: STALE, text: "", stands: "" };
  return { status: answer.status, text: isPlain ? await answer.text() : "", stands: answer.headers.get("x-stands") || "" };
}

/** @param {Entry} entry */
async function send(entry) {
  const first = await post(entry);
  return first.status === STALE ? withFreshToken(entry) : first;
}

/** @type {Promise<boolean>} */
let sending = null;
/** @type {number[]} what the next run was asked for while one was under way */
let asked = [];

// Browsers give locks over TLS and on the own machine; elsewhere two windows may send one entry twice, which counts once by its key.
/** @param {number} older */
const alone = async (older) => (navigator.locks ? navigator.locks.request("eyot-outbox", () => run(older)) : run(older));

async function runAsAsked() {
  let all = true;
  try {
    while (asked.length) {
      const older = Math.min(...asked);
      asked = [];
      all = await alone(older);
    }
  } finally {
    sending = null;
  }
  return all;
}

/**
 * Sends what waits, oldest first; stops at the first that gets no answer. One run at a time, over all windows; what is entered while one
 * comes to its end is sent by another. Tells whether all is sent.
 * @param {number} older send only what has waited for so many milliseconds
 */
export function sendAll(older = 0) {
  asked.push(older);
  sending ??= runAsAsked();
  return sending;
}

/** @param {number} older */
async function run(older) {
  if (isLogin() || !person()) return false;
  for (let [entry] = await free(); entry; [entry] = await free()) {
    if (Date.now() - entry.at < older) return false;
    const answer = await send(entry).catch(() => ({ status: 0, text: "", stands: "" }));
    if (answer.status === 401) return askForLogin();
    if (WAITS.includes(answer.status)) return stillKept(answer);
    if (answer.status >= 200 && answer.status < 400) await forget(entry.key);
    else if (answer.status === 500 && entry.tries + 1 < BREAKS_AT_MOST) {
      await keep({ ...entry, tries: entry.tries + 1 });
      return stillKept(answer);
    } else await setAside(entry, answer);
    await count();
    document.dispatchEvent(new CustomEvent("eyot:sent", { detail: entry }));
  }
  tell("");
  return true;
}

/** @type {Record<number, string>} */
const REASONS = {
  404: "what it belongs to is not here any more, or not open to you",
  413: "it is larger than can be taken",
  500: "Eyot broke over it, several times",
};

/**
 * @param {Entry} entry
 * @param {Answer} answer
 */
async function setAside(entry, { status, text, stands }) {
  const reason = text || REASONS[status] || `the server answered ${status}`;
  await keep({ ...entry, aside: reason, stands });
  document.dispatchEvent(new CustomEvent("eyot:changed"));
}

/** @param {Answer} answer */
async function stillKept({ status, text }) {
  await count();
  const things = `${left.waiting} ${left.waiting > 1 ? "entries are" : "entry is"} kept on this device`;
  if (text) tell(`${things}: ${text}`);
  else tell(status ? `${things}; the server does not answer just now.` : `${things} until there is a connection.`);
  document.dispatchEvent(new CustomEvent("eyot:sent"));
  return false;
}

/**
 * Is something half entered on the page, besides what is sent just now?
 * @param {Element} [sender]
 */
const isHalfEntered = (sender) => all("main form").some((form) => form !== sender && isBeingFilledIn(form));

/** @param {Element} [sender] */
function askForLogin(sender) {
  if (isHalfEntered(sender)) {
    tell("Your login has run out. What was entered is kept on this device, and what you are writing stays here: log in again in another window, then go on.");
    return false;
  }
  tell("Your login has run out. Your answer is kept on this device; log in again and it is sent.");
  const here = location.pathname + location.search;
  setTimeout(() => { location.href = `/login/?next=${encodeURIComponent(here)}`; }, 1200);
  return false;
}

/**
 * @param {string} words
 * @param {() => Promise<unknown>} work
 */
function button(words, work) {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "button";
  made.textContent = words;
  made.addEventListener("click", async () => { await work(); await sendAll(); });
  return made;
}

/** @param {Entry} entry */
function asideItem(entry) {
  const item = document.createElement("li"), words = document.createElement("p");
  const said = Object.entries(entry.values).filter(([name, value]) => !["key", "entered", "was", "follows"].includes(name) && value).map(([, value]) => value);
  words.textContent = `${entry.words || said.join(" ")}${entry.name ? ` ${entry.name}` : ""}: ${entry.aside}`;
  const anew = (/** @type {Record<string, string>} */ values) => keep({ ...entry, values: { ...entry.values, ...values }, aside: "", stands: "", tries: 0 });
  const again = entry.stands ? button("Set it all the same", () => anew({ was: entry.stands })) : button("Send it again", () => anew({}));
  item.append(words, again, button(entry.stands ? "Leave it as it stands" : "Throw it away", () => forget(entry.key)));
  return item;
}

// What was not taken stays in sight until the keeper has decided.
async function listAside() {
  const list = find("#aside"), own = (await count()).filter((entry) => entry.aside);
  if (!list) return;
  find("ul", list).replaceChildren(...own.map(asideItem));
  list.hidden = !own.length;
}

// Late entries are sent behind the page's back; where the page shows what was entered long ago, it is drawn anew, and in part only where
// something is half entered.
/** @param {number} older */
async function catchUp(older) {
  await count();
  if (!left.waiting || !(await sendAll(older)) || left.aside) return;
  if (isHalfEntered()) document.dispatchEvent(new CustomEvent("eyot:changed"));
  else if (!document.querySelector("[data-cutting]")) location.reload();
}

// Whoever logs out hears what still waits for him.
/** @param {SubmitEvent} event */
function beforeLogout(event) {
  const form = /** @type {HTMLFormElement} */ (event.target), waits = left.waiting + left.aside;
  if (!form.action.endsWith("/logout/") || !waits || form.dataset.heard) return;
  event.preventDefault();
  form.dataset.heard = "yes";
  tell(`${waits} ${waits > 1 ? "entries wait" : "entry waits"} on this device; they stay here and are sent when you log in on it again. Press “log out” once more to leave.`);
}

/**
 * What htmx sends itself is on the shelf meanwhile.
 * @param {CustomEvent<HtmxDetail>} event
 */
function shelveForm(event) {
  const values = Object.fromEntries(event.detail.formData);
  delete values.csrfmiddlewaretoken;
  if (values.key) shelve(event.detail.path, /** @type {Record<string, string>} */ (values)).catch(() => {});
}

/** @param {CustomEvent<HtmxDetail>} event */
function afterForm(event) {
  const { requestConfig: { elt, verb, parameters: { key } }, xhr: { status } } = event.detail;
  if ((status >= 200 && status < 400) || status === 422) {
    if (key) forget(key);
    if (!left.aside) tell("");
  } else if (status === 401) askForLogin(elt);
  else if (key) tell("Kept on this device; the server does not answer just now. It is sent when it is back.");
  else if (verb !== "get") tell("The server does not answer just now. Nothing was changed; try again in a moment.");
}

export async function keepAnswers() {
  document.body.addEventListener("htmx:configRequest", shelveForm);
  document.body.addEventListener("htmx:afterRequest", afterForm);
  document.addEventListener("submit", beforeLogout);
  document.addEventListener("eyot:shelf", listAside);
  addEventListener("online", () => catchUp(0));
  setInterval(() => catchUp(OVERDUE_MS), RETRY_MS);
  await moveOld(person());
  await listAside();
  await catchUp(0);
}
