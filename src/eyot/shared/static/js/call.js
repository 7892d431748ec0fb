// What is being entered for a call stays when the panel around it is drawn anew: an answer that comes back late, or
// another's, neither closes the form nor takes a word away. What was not touched follows the new chances.
import { all, find } from "./dom.js";

const FIELDS = "input:not([type=hidden]), select, textarea";
const fields = () => /** @type {HTMLInputElement[]} */ (all(FIELDS, find("#call")));

/** @param {Element} field */
function atFirst(field) {
  if (field.tagName !== "SELECT") return /** @type {HTMLInputElement} */ (field).defaultValue;
  const options = [.../** @type {HTMLSelectElement} */ (field).options];
  return (options.find((one) => one.defaultSelected) ?? options[0]).value;
}

/** @param {HTMLInputElement} field */
const touched = (field) => (field.type === "radio" ? field.checked && !field.defaultChecked : field.value !== atFirst(field));

/** @param {HTMLInputElement} field */
const nameOf = (field) => (field.type === "radio" ? `${field.name}=${field.value}` : field.name);

const folds = () => /** @type {HTMLDetailsElement[]} */ ([find("#call"), ...all("details", find("#call"))]);

function entered() {
  if (!find("#call")) return null;
  const at = /** @type {HTMLInputElement} */ (document.activeElement), within = find("#call").contains(at) && at.matches(FIELDS);
  return {
    opened: folds().map((fold) => fold.open),
    values: new Map(fields().filter(touched).map((field) => [nameOf(field), field.value])),
    at: within ? nameOf(at) : "",
    caret: within ? at.selectionStart : null,
  };
}

/** @param {ReturnType<typeof entered>} kept */
function enterAgain(kept) {
  folds().forEach((fold, index) => { fold.open = kept.opened[index]; });
  for (const field of fields()) {
    const name = nameOf(field);
    if (kept.values.has(name)) {
      if (field.type === "radio") field.checked = true;
      else field.value = kept.values.get(name);
    }
    if (name !== kept.at) continue;
    field.focus({ preventScroll: true });
    if (kept.caret !== null) field.setSelectionRange(kept.caret, kept.caret);
  }
}

export function keepCall() {
  /** @type {ReturnType<typeof entered>} */
  let kept = null;
  document.body.addEventListener("htmx:beforeSwap", (event) => {
    const { target, requestConfig, xhr } = /** @type {CustomEvent} */ (event).detail;
    const isKept = requestConfig.elt.closest("#call") && xhr.status < 400; // the call itself, and taken
    kept = target.id === "judgement" && !isKept ? entered() : null;
  });
  document.body.addEventListener("htmx:afterSwap", () => {
    if (kept && find("#call")) enterAgain(kept);
    kept = null;
  });
}
