// Paper by day, lamp in a dim room: follows the system until the reader chooses.
import { find } from "./dom.js";

export function switchLighting() {
  const button = find("[data-lighting-switch]");
  if (!button) return;
  const dark = () => {
    const chosen = document.documentElement.dataset.lighting;
    return chosen ? chosen === "lamp" : matchMedia("(prefers-color-scheme: dark)").matches;
  };
  const name = () => { button.textContent = dark() ? "Paper" : "Lamp"; };
  name();
  button.addEventListener("click", () => {
    const lighting = dark() ? "paper" : "lamp";
    document.documentElement.dataset.lighting = lighting;
    document.cookie = `lighting=${lighting};path=/;max-age=31536000;samesite=lax`;
    name();
  });
}
