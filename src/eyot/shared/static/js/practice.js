// Practice by keys: a figure chooses a level, or takes a gene from not there over a hint and likely to sure; Enter goes on.
import { all, find } from "./dom.js";

/** @param {number} number @param {HTMLElement} table */
function surer(number, table) {
  const row = all("[data-gene]", table)[number - 1];
  if (!row) return;
  const choices = /** @type {HTMLInputElement[]} */ (all("input[type=radio]", row));
  const place = choices.findIndex((one) => one.checked);
  choices[(place + 1) % choices.length].checked = true;
}

export function practise() {
  const page = find(".practice");
  if (!page) return;
  page.dataset.hears = "keys";
  document.addEventListener("keydown", (event) => {
    const target = /** @type {HTMLElement} */ (event.target);
    const isTyping = target.matches("input:not([type=radio]), textarea, select");
    if (event.ctrlKey || event.metaKey || event.altKey || isTyping) return;
    const number = Number(event.key);
    const naming = find("[data-naming]", page);
    if (number >= 1 && naming) {
      surer(number, naming);
      event.preventDefault();
    } else if (number >= 1) {
      find(`[data-key="${number}"]`, page)?.click();
    } else if (event.key === "Enter" && !target.matches("a, button, summary")) {
      (find("[data-next]", page) ?? find("[data-naming] .go", page))?.click();
    }
  });
}
