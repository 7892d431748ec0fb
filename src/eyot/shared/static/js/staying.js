// The page stays where it was when something is entered: the same button lies under the finger and has the keys, whether a part
// is drawn anew or the whole page comes back.
import { all, find, named } from "./dom.js";
import { enterAgain, entered, identity } from "./entered.js";

const STOPS = "a[href], button, input:not([type=hidden]), select, textarea, summary, [tabindex='0']";
const KEPT = "eyot-stays";
const SOON_MS = 60_000, LONG_MS = 3_600_000;

/** @typedef {{like: string, nth: number, kin: string, nthOfKin: number}} Stop */

/**
 * What is the same button, or the same field, before and after.
 * @param {HTMLElement} element
 */
function likeness(element) {
  const { name = "", type, value } = /** @type {HTMLInputElement} */ (element), form = element.closest("form")?.getAttribute("action");
  const said = element.getAttribute("aria-label") ?? element.textContent.trim(), look = /** @type {HTMLElement} */ (element.closest("[data-look]"))?.dataset.look;
  return [element.tagName, name, /checkbox|radio|submit/.test(type) ? value : "", said, form, look].join("|");
}

/**
 * What stands for it where it is gone: the one that took its place in the list.
 * @param {HTMLElement} element
 */
function kinship(element) {
  const way = [];
  for (let one = element; one && way.length < 4; one = one.parentElement) way.push(`${one.tagName}.${one.className}`);
  return way.join("<");
}

/** @param {ParentNode} root */
const stops = (root) => all(STOPS, root);

/**
 * @param {HTMLElement} element
 * @param {ParentNode} root
 * @returns {Stop}
 */
function stopAt(element, root) {
  const like = likeness(element), kin = kinship(element), among = stops(root);
  return {
    like,
    nth: among.filter((one) => likeness(one) === like).indexOf(element),
    kin,
    nthOfKin: among.filter((one) => kinship(one) === kin).indexOf(element),
  };
}

/**
 * @param {Stop} stop
 * @param {ParentNode} root
 * @returns {HTMLElement | undefined}
 */
function sameAgain({ like, nth }, root) {
  const same = stops(root).filter((one) => likeness(one) === like);
  return same[Math.min(nth, same.length - 1)];
}

/**
 * @param {Stop} stop
 * @param {ParentNode} root
 * @returns {HTMLElement | undefined}
 */
function kinOf({ kin, nthOfKin }, root) {
  const near = stops(root).filter((one) => kinship(one) === kin);
  return near[Math.min(nthOfKin, near.length - 1)];
}

/** @param {HTMLElement} [element] */
const giveKeys = (element) => element?.focus({ preventScroll: true });

/**
 * Draws a part anew, with the keys where they were; what was folded open stays open.
 * @param {HTMLElement} part
 * @param {HTMLElement} fresh
 */
export function replaced(part, fresh) {
  const on = /** @type {HTMLElement} */ (document.activeElement), stop = part.contains(on) ? stopAt(on, part) : null;
  const opened = all("details[open] > summary", part).map(likeness);
  all("details > summary", fresh).forEach((fold) => { if (opened.includes(likeness(fold))) fold.parentElement.setAttribute("open", ""); });
  part.replaceWith(fresh);
  if (stop) giveKeys(sameAgain(stop, fresh) ?? kinOf(stop, fresh));
}

// A part is drawn anew by htmx, which finds what has an id again by itself.
function stayInParts() {
  /** @type {{stop: Stop, part: string} | null} */
  let kept = null;
  document.body.addEventListener("htmx:beforeSwap", (event) => {
    const part = event.detail.target, on = /** @type {HTMLElement} */ (document.activeElement);
    kept = part.contains(on) && on !== part && !on.id ? { stop: stopAt(on, part), part: part.id } : null;
  });
  document.body.addEventListener("htmx:afterSwap", () => {
    if (kept && document.activeElement === document.body) {
      const part = document.getElementById(kept.part) ?? document;
      giveKeys(sameAgain(kept.stop, part) ?? kinOf(kept.stop, part));
    }
    kept = null;
  });
}

/** @param {string} what */
const formsOf = (what) => /** @type {HTMLFormElement[]} */ (all("form")).filter((one) => identity(one) === what);

/**
 * What was typed into a form, as far as it may be kept: no password, and of a file no browser lets it.
 * @param {HTMLFormElement} form
 */
function typed(form) {
  const isSecret = (/** @type {string} */ name) => named(form, name)?.type === "password" || named(form, name)?.type === "file";
  return [...entered(form).values].filter(([name]) => !isSecret(name));
}

/** @param {HTMLFormElement} form */
const hasFiles = (form) => /** @type {HTMLInputElement[]} */ (all("input[type=file]", form)).some((one) => one.files.length);

// The whole page comes back after a form was sent.
/** @param {SubmitEvent} event */
function leave(event) {
  const form = /** @type {HTMLFormElement} */ (event.target), by = event.submitter;
  const { person } = document.body.dataset;
  if (event.defaultPrevented || form.method !== "post" || !by || (!person && form.matches(".login"))) return;
  const where = { path: location.pathname, at: Date.now(), y: scrollY, top: by.getBoundingClientRect().top, stop: stopAt(by, document) };
  const what = { person, form: identity(form), nth: formsOf(identity(form)).indexOf(form), values: typed(form), hasFiles: hasFiles(form) };
  sessionStorage.setItem(KEPT, JSON.stringify({ ...where, ...what }));
}

/** @typedef {{path: string, at: number, y: number, top: number, stop: Stop}} Where */
/** @typedef {{person: string, form: string, nth: number, values: [string, string | boolean][], hasFiles: boolean, hasEnded?: boolean}} What */

/** @param {Where} kept */
function comeBack(kept) {
  const button = sameAgain(kept.stop, document), place = button ?? kinOf(kept.stop, document);
  if (!place || find("main [role=alert]")) return; // what went wrong stands above
  if (kept.y) {
    scrollBy(0, place.getBoundingClientRect().top - kept.top);
    document.documentElement.dataset.stayed = "";
  }
  giveKeys(button); // not another's, which a second press would set off
}

/** @param {Where & What} kept */
function enterOnceMore(kept) {
  const form = formsOf(kept.form)[kept.nth];
  if (!form) return;
  for (let fold = form.closest("details"); fold; fold = fold.parentElement.closest("details")) fold.open = true;
  enterAgain(form, { values: new Map(kept.values), at: "", caret: null });
  const line = document.createElement("p");
  line.className = "band message";
  line.role = "status";
  const files = kept.hasFiles ? " Its files are to be chosen once more." : "";
  line.textContent = `Your login had ended: ${kept.values.length ? "what you entered stands in its form again, and is not saved yet" : "nothing was changed"}.${files}`;
  find("main").prepend(line);
  comeBack(kept);
}

// What was sent when the login had ended is entered again after the next one, if it is the same person's.
function arrive() {
  const kept = /** @type {Where & What} */ (JSON.parse(sessionStorage.getItem(KEPT) ?? "null")), { person } = document.body.dataset;
  if (!kept) return;
  const isHere = kept.path === location.pathname && kept.person === person, age = Date.now() - kept.at;
  if (find("[data-ended]")) kept.hasEnded = true;
  if (kept.hasEnded && age < LONG_MS && !isHere && [kept.person, "", undefined].includes(person)) return sessionStorage.setItem(KEPT, JSON.stringify(kept));
  sessionStorage.removeItem(KEPT);
  if (!isHere) return undefined;
  if (kept.hasEnded) return age < LONG_MS ? enterOnceMore(kept) : undefined;
  return age < SOON_MS ? comeBack(kept) : undefined;
}

export function stayInPlace() {
  arrive();
  stayInParts();
  document.addEventListener("submit", leave);
  // A key that is held presses once: the button that has it afterwards may be another's.
  document.addEventListener("keydown", (event) => {
    if (event.repeat && event.key === "Enter" && /** @type {Element} */ (event.target).closest("a, button, summary")) event.preventDefault();
  });
}
