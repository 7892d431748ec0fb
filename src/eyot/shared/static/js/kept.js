// Pages that open without a signal: the worker is set to work, and a page that it kept says calmly how old it is.
import { all, find } from "./dom.js";
import { remaining } from "./outbox.js";

/** @param {Date} day */
const when = (day) => day.toLocaleString("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });

/** @param {string} words */
function say(words) {
  const line = find("#kept");
  if (!line) return;
  line.textContent = words;
  line.hidden = !words;
}

/** @param {string[]} pages @param {boolean} anew */
async function ask(pages, anew) {
  const ready = await navigator.serviceWorker.ready;
  if (pages.length) ready.active.postMessage({ pages, anew });
}

export function keepPages() {
  const keptAt = Number(document.documentElement.dataset.keptAt || 0);
  if (keptAt) say(`No signal. This page is as it was on ${when(new Date(keptAt))}; what you enter is kept on this device and sent when the signal is back.`);
  if (!("serviceWorker" in navigator)) return;
  navigator.serviceWorker.register("/worker.js");
  if (document.querySelector("form.login")) return;
  if (!keptAt) ask(all("a[href$='/cutting/']").map((link) => /** @type {HTMLAnchorElement} */ (link).href), false);
  document.addEventListener("eyot:sent", () => {
    const { waiting, aside } = remaining();
    if (waiting) return;
    if (keptAt) say(aside ? "The signal is back; not all was taken, see above." : "The signal is back, and everything is sent.");
    ask([location.href], true);
  });
}
