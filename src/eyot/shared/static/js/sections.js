// The bench on a phone: one part at a time, by thumb. At a desk all parts stand on the page and the bar is not shown.
import { all, around, find } from "./dom.js";

const PART = "eyot-part";

/** @param {string} part */
export function showPart(part) {
  const bench = find("[data-bench]");
  if (!bench || !find("[data-to-section]")) return;
  bench.dataset.section = part;
  sessionStorage.setItem(PART, part);
  all("[data-to-section]").forEach((button) => button.setAttribute("aria-pressed", String(button.dataset.toSection === part)));
  const call = /** @type {HTMLDetailsElement} */ (document.getElementById("call"));
  if (part === "call" && call) call.open = true;
}

export function partBench() {
  if (!find("[data-to-section]")) return;
  showPart(sessionStorage.getItem(PART) ?? "look");
  document.addEventListener("click", (event) => {
    const button = around(event, "[data-to-section]");
    if (!button) return;
    showPart(button.dataset.toSection);
    scrollTo(0, 0);
  });
}
