// As much of a browser as the outbox needs, for tests without one: a page, its database, the network.
import "./globals.js";
import "../../assets/node_modules/fake-indexeddb/auto/index.mjs";
import { JSDOM } from "../../assets/node_modules/jsdom/lib/api.js";
import { entriesOf, forget } from "../../src/eyot/shared/static/js/shelf.js";

const PAGE = `<!DOCTYPE html><body data-person="7" hx-headers='{"X-CSRFToken": "token"}'><p id="outbox" hidden></p><section id="aside" hidden><ul></ul></section></body>`;

/**
 * Sets up page, storage, timers (`later` is what waits for one) and network; `answers` are taken in turn by `fetch`: a status, one with type, text and stands, or an error to throw.
 */
export function standIn() {
  const { window } = new JSDOM(PAGE, { url: "http://eyot.test/clutches/W-04/" });
  const sent = [], told = [];
  for (const name of ["document", "localStorage", "CustomEvent"]) globalThis[name] = window[name];
  globalThis.location = { pathname: "/clutches/W-04/", search: "", href: "", reload: () => told.push("reload") };
  globalThis.addEventListener = () => {};
  const later = [];
  globalThis.setInterval = () => 0; // what it sends again by itself is asked for by name here
  globalThis.setTimeout = (work) => later.push(work);
  Object.defineProperty(globalThis, "navigator", { value: { locks: oneAtATime() }, configurable: true });
  for (const type of ["eyot:sent", "eyot:changed"]) window.document.addEventListener(type, () => told.push(type));
  const page = {
    sent,
    told,
    later,
    document: window.document,
    line: window.document.getElementById("outbox"),
    answers: [],
    tokens: [],
    onFetch: null,
    aside: () => [...window.document.querySelectorAll("#aside li")],
    press: async (words) => { [...window.document.querySelectorAll("#aside button")].find((one) => one.textContent === words).click(); await quiet(); },
  };
  globalThis.fetch = async (url, { body, headers } = {}) => {
    if (url === "/token/") return { ok: true, json: async () => page.tokens.shift() };
    sent.push({ url, token: headers["X-CSRFToken"], values: Object.fromEntries(body) });
    page.onFetch?.();
    const answer = page.answers.shift() ?? 200;
    if (answer instanceof Error) throw answer;
    const { status, type = "text/plain", text = "", stands = null } = typeof answer === "number" ? { status: answer } : answer;
    return { ok: status < 300, status, headers: { get: (name) => (name === "x-stands" ? stands : type) }, text: async () => text };
  };
  return page;
}

/** A browser's locks, as far as one name goes. */
function oneAtATime() {
  let before = Promise.resolve();
  return { request: (_, work) => { before = before.then(work, work); return before; } };
}

/** Until the database has done what it was asked for. */
export async function quiet() {
  for (let turn = 0; turn < 300; turn += 1) await new Promise((done) => { setImmediate(done); });
}

/** The shelf as on a device that is new. */
export async function emptyShelf() {
  for (const person of ["7", "8"]) for (const entry of await entriesOf(person)) await forget(entry.key);
}
