// The planner: the number beside a slider follows it.
import { find, origin } from "./dom.js";

export function countEggs() {
  document.addEventListener("input", (event) => {
    const count = find(`[data-count-of="${origin(event).name}"]`);
    if (count && origin(event).type === "range") count.textContent = origin(event).value;
  });
}
