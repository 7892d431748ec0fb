// What is being entered on the bench stays when the panel around it is drawn anew: an answer that comes back late, or another's,
// neither closes the call, nor takes a word away, nor turns a choice back. What was not touched follows the new chances.
import { all, find } from "./dom.js";

const FIELDS = "input[name]:not([type=hidden], [type=submit]), select[name], textarea[name]";
const PANEL = "judgement";

/** @param {Element} root */
const fieldsIn = (root) => /** @type {HTMLInputElement[]} */ (all(FIELDS, root));
const forms = () => /** @type {HTMLFormElement[]} */ (all("form", document.getElementById(PANEL)));

/**
 * A form is the same before and after by what it does.
 * @param {HTMLFormElement} form
 */
export const identity = (form) => form.id || form.getAttribute("action");

/** @param {Element} field */
function atFirst(field) {
  if (field.tagName !== "SELECT") return /** @type {HTMLInputElement} */ (field).defaultValue;
  const options = [.../** @type {HTMLSelectElement} */ (field).options];
  return (options.find((one) => one.defaultSelected) ?? options[0])?.value ?? "";
}

/** @param {HTMLInputElement} field */
function touched(field) {
  if (field.type === "checkbox") return field.checked !== field.defaultChecked;
  return field.type === "radio" ? field.checked && !field.defaultChecked : field.value !== atFirst(field);
}

/**
 * Has somebody entered something in here that is not sent yet?
 * @param {Element} root
 */
export const isBeingFilledIn = (root) => fieldsIn(root).some(touched);

/** @param {HTMLInputElement} field */
const nameOf = (field) => (/radio|checkbox/.test(field.type) ? `${field.name}=${field.value}` : field.name);

/**
 * What was entered into a form and is not sent yet, and which of its fields has the cursor.
 * @param {HTMLFormElement} form
 */
export function entered(form) {
  const at = /** @type {HTMLInputElement} */ (document.activeElement), within = form.contains(at) && at.matches(FIELDS);
  return {
    values: new Map(fieldsIn(form).filter(touched).map((field) => [nameOf(field), field.type === "checkbox" ? field.checked : field.value])),
    at: within ? nameOf(at) : "",
    caret: within ? at.selectionStart : null,
  };
}

/**
 * @param {HTMLInputElement} field
 * @param {string | boolean} value
 */
function put(field, value) {
  if (typeof value === "boolean") field.checked = value;
  else if (field.type === "radio") field.checked = true;
  else if (field.tagName !== "SELECT" || all("option", field).some((one) => /** @type {HTMLOptionElement} */ (/** @type {unknown} */ (one)).value === value)) field.value = value;
}

/**
 * @param {HTMLFormElement} form
 * @param {ReturnType<typeof entered>} kept
 */
export function enterAgain(form, kept) {
  for (const field of fieldsIn(form)) {
    const name = nameOf(field);
    if (kept.values.has(name)) put(field, kept.values.get(name));
    if (name !== kept.at) continue;
    field.focus({ preventScroll: true });
    if (kept.caret !== null) field.setSelectionRange(kept.caret, kept.caret);
  }
}

const folds = () => {
  const call = find("#call");
  return call ? /** @type {HTMLDetailsElement[]} */ ([call, ...all("details", call)]) : [];
};

/** @param {Element} sender */
function keep(sender) {
  return {
    opened: folds().map((fold) => fold.open && !fold.contains(sender)),
    forms: new Map(forms().filter((form) => form !== sender).map((form) => [identity(form), entered(form)])),
  };
}

/** @param {ReturnType<typeof keep>} kept */
function putBack(kept) {
  folds().forEach((fold, index) => { fold.open = kept.opened[index] ?? fold.open; });
  for (const form of forms()) {
    const before = kept.forms.get(identity(form));
    if (before) enterAgain(form, before);
  }
}

export function keepEntered() {
  /** @type {ReturnType<typeof keep>} */
  let kept = null;
  document.body.addEventListener("htmx:beforeSwap", (event) => {
    const { target, requestConfig, xhr } = /** @type {CustomEvent} */ (event).detail;
    // What was taken is no longer being entered.
    kept = target.id === PANEL ? keep(xhr.status < 400 ? requestConfig.elt.closest("form") : null) : null;
  });
  document.body.addEventListener("htmx:afterSwap", () => {
    if (kept) putBack(kept);
    kept = null;
  });
}
