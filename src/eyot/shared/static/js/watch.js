// What somebody else has changed meanwhile shows within some seconds: a page that is watched asks for the stamp of what it shows.
import { find } from "./dom.js";
import { isBeingFilledIn } from "./entered.js";
import { whenLifted } from "./pressed.js";
import { replaced } from "./staying.js";

const EVERY_MS = 4000;

/** The page as the server has it now; nothing where it can't be had. */
export async function afresh() {
  const answer = await fetch(location.pathname + location.search, { headers: { Accept: "text/html" } }).catch(() => /** @type {Response} */ (null));
  if (!answer?.ok || answer.redirected) return null;
  return new DOMParser().parseFromString(await answer.text(), "text/html");
}

/** @param {HTMLElement} watched */
async function ask(watched) {
  if (document.hidden) return;
  const answer = await fetch(watched.dataset.watch, { headers: { "HX-Request": "true" } }).catch(() => /** @type {Response} */ (null));
  if (!answer?.ok) return;
  const stamp = await answer.text(), before = watched.dataset.stamp;
  watched.dataset.stamp = stamp;
  if (before && stamp !== before) document.dispatchEvent(new CustomEvent("eyot:changed"));
}

// Forms that somebody is filling in are not taken from under his hands: the page says that it is older, and draws itself anew on demand.
async function redrawRecord() {
  const main = find("main"), typing = document.activeElement?.closest("form") && !document.activeElement.matches("button");
  if (typing || isBeingFilledIn(main)) return offer();
  const fresh = await afresh();
  if (fresh) whenLifted(() => replaced(main, find("main", fresh)));
  return undefined;
}

function offer() {
  if (find("[data-offered]")) return;
  const line = document.createElement("p"), show = document.createElement("button");
  line.className = "band";
  line.dataset.offered = "";
  line.role = "status";
  line.textContent = "Somebody has changed something here since. ";
  show.type = "button";
  show.textContent = "Show it";
  show.addEventListener("click", () => location.reload());
  line.append(show);
  find("main").prepend(line);
}

export function watchOthers() {
  const watched = find("[data-watch]");
  if (!watched) return;
  if (watched.hasAttribute("data-redraw")) document.addEventListener("eyot:changed", redrawRecord);
  document.body.addEventListener("htmx:afterRequest", (event) => {
    const stamp = event.detail.xhr.getResponseHeader("X-Stamp");
    if (stamp) find("[data-watch]").dataset.stamp = stamp;
  });
  setInterval(() => ask(find("[data-watch]")), EVERY_MS);
  ask(watched);
}
