// The large photo goes to where the look that is asked is seen, and follows it from look to look until it is whole again.
import { around, find } from "./dom.js";

const photo = () => /** @type {HTMLImageElement} */ (document.getElementById("large-photo"));

/** @param {boolean} there */
function show(there) {
  const image = photo(), button = find("[data-go-at]");
  if (!image) return;
  image.dataset.whole ??= image.getAttribute("src");
  image.setAttribute("src", there && button ? button.dataset.goAt : image.dataset.whole);
  image.closest("figure")?.classList.toggle("at-place", Boolean(there && button));
  button?.setAttribute("aria-pressed", String(there));
}

const isThere = () => Boolean(photo()?.closest(".at-place"));

export function goWhereAsked() {
  if (!find("[data-bench]")) return;
  document.addEventListener("click", (event) => { if (around(event, "[data-go-at]")) show(!isThere()); });
  // Another look is asked: the photo goes to where that one is seen.
  document.body.addEventListener("htmx:afterSettle", () => { if (isThere()) show(true); });
}
