// A page without a browser, for scripts that live in one: jsdom's document, with the outbox's storage and htmx's calls written down.
import "./globals.js";
import { JSDOM } from "../../assets/node_modules/jsdom/lib/api.js";

/** A page with a body; `sent` is every call of htmx, in order, each ended by its `done` or its `fails`. */
export function openPage(body, path = "/clutches/W-04/1/") {
  const { window } = new JSDOM(`<!DOCTYPE html><body>${body}</body>`, { url: `http://eyot.test${path}` });
  const sent = [];
  // What jsdom does not draw, it does not scroll or open.
  window.Element.prototype.scrollIntoView = () => {};
  window.HTMLDialogElement.prototype.showModal = function showModal() { this.setAttribute("open", ""); };
  const names = ["document", "location", "localStorage", "sessionStorage", "FormData", "CustomEvent", "Event", "KeyboardEvent", "HTMLElement"];
  for (const name of names) globalThis[name] = window[name];
  globalThis.addEventListener = window.addEventListener.bind(window);
  globalThis.scrollTo = () => {};
  globalThis.scrollY = 0;
  globalThis.htmx = {
    ajax: (verb, url, { values, headers }) => new Promise((done, fails) => sent.push({ verb, url, values, shown: headers["X-Rows-Shown"], done, fails })),
  };
  return { window, document: window.document, sent };
}

/** Lets everything run that waits for a promise that is settled. */
export const settled = () => new Promise((done) => { setImmediate(done); });

const level = (look, name) => `<button class="level${name === "unseen" ? " unseen" : ""}" data-level="${name}" aria-pressed="false">${name}</button>`;

/** A look's row on the bench. */
export const row = (look, levels, more = "") =>
  `<div class="look${more}" data-look="${look}" data-state="${look}.0">${[...levels, "unseen"].map((name) => level(look, name)).join("")}</div>`;
