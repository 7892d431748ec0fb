// A line of genes: pressing a choice writes it into the line, which is then read anew. Until then no other choice can be
// pressed: each stands for the line as it was.
import { all, around } from "./dom.js";

export function answerLines() {
  document.addEventListener("click", (event) => {
    const pressed = around(event, "[data-line]");
    const line = /** @type {HTMLInputElement} */ (document.getElementById("line"));
    if (!pressed || !line) return;
    for (const choice of all("[data-line]")) /** @type {HTMLButtonElement} */ (choice).disabled = true;
    line.value = pressed.dataset.line;
    line.dispatchEvent(new Event("input", { bubbles: true }));
    line.focus();
  });
}
