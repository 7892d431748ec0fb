// A whole rack fed by thumb: a tap on what stands already takes it back; one press says it of all.
import { all, around, find } from "./dom.js";

export function feedRack() {
  const rack = find("[data-rack]");
  if (!rack) return;
  /** @type {NodeListOf<HTMLInputElement>} */
  const choices = rack.querySelectorAll("input[type=radio]");
  /** @type {HTMLInputElement | null} */
  let stood = null;
  rack.addEventListener("pointerdown", (event) => {
    const label = around(event, ".tub label"), input = label?.querySelector("input");
    stood = input?.checked ? input : null;
  });
  rack.addEventListener("click", (event) => {
    if (event.target === stood && stood) [stood.checked, stood] = [false, null];
  });
  const button = rack.querySelector("[data-all-took]");
  if (!button) return;
  button.removeAttribute("hidden");
  button.addEventListener("click", () => {
    choices.forEach((one) => { if (one.value === "took" && !isRefused(one)) one.checked = true; });
  });
}

/** @param {HTMLInputElement} took */
function isRefused(took) {
  return all(`input[name="${took.name}"][value=refused]`).some((one) => /** @type {HTMLInputElement} */ (one).checked);
}
