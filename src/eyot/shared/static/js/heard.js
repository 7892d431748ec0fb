// What was said of this one and a sibling goes into the form "Beside a sibling", and is kept.
import { around, find, named } from "./dom.js";

export function layBesideAsHeard() {
  document.addEventListener("click", (event) => {
    const pressed = around(event, "[data-beside]");
    const form = /** @type {HTMLFormElement} */ (find(".beside-form"));
    if (!pressed || !form) return;
    for (const [name, value] of [["what", pressed.dataset.beside], ["other", pressed.dataset.other]]) {
      const choice = /** @type {HTMLSelectElement} */ (/** @type {unknown} */ (named(form, name)));
      if (![...choice.options].some((option) => option.value === value)) choice.add(new Option(value, value));
      choice.value = value;
    }
    form.requestSubmit();
    pressed.disabled = true;
  });
}
