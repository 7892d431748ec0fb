// What the server would refuse a reader can't be pressed; what others answered is there to be seen.
import { all } from "./dom.js";

const REFUSED = "main [hx-post], .look [data-level], .cut-egg :is(button:not([data-step]), input, textarea), [data-ask], [data-accept]";

export function onlyLook() {
  if (document.body.dataset.role !== "reader") return;
  const shut = () => all(REFUSED).forEach((one) => one.setAttribute("disabled", ""));
  shut();
  document.body.addEventListener("htmx:afterSettle", shut);
}
