// Keys of the bench; the sheet of keys opens on "?".
let current = "";

const rows = () => [...document.querySelectorAll("#judgement .look, #more .look")];

// A look that moved up among those worth asking is taken out of the others.
function dropDoubles() {
  document.querySelectorAll("#judgement .look").forEach((row) => document.querySelector(`#more .look[data-look="${row.dataset.look}"]`)?.remove());
}

function stand(row) {
  if (!row) return;
  current = row.dataset.look;
  rows().forEach((other) => other.classList.toggle("here", other === row));
  row.scrollIntoView({ block: "nearest" });
}

function move(by) {
  const all = rows();
  const place = all.findIndex((row) => row.dataset.look === current);
  stand(all[Math.min(all.length - 1, Math.max(0, place + by))]);
}

function choose(number) {
  const row = rows().find((other) => other.dataset.look === current);
  if (!row) return;
  const levels = [...row.querySelectorAll(".level:not(.unseen)")];
  (number === 0 ? row.querySelector(".unseen") : levels[number - 1])?.click();
}

const jump = () => stand(document.querySelector(".look.suggested"));

const ACTIONS = {
  j: () => move(1),
  k: () => move(-1),
  n: jump,
  c: () => { const call = document.getElementById("call"); if (call) { call.open = true; call.querySelector("summary").focus(); call.scrollIntoView({ block: "nearest" }); } },
  z: () => document.querySelector("[data-zoom-open]")?.click(),
  m: () => document.querySelector("[data-accept]:not(:disabled)")?.click(),
  o: () => document.querySelector("[data-next-open]")?.click(),
  d: () => document.querySelector("[data-dictate]")?.click(),
  w: () => document.querySelector(".why-link")?.click(),
  l: () => document.querySelector("[data-line-up-link]")?.click(),
  "[": () => document.querySelector("[data-previous]")?.click(),
  "]": () => document.querySelector("[data-next]")?.click(),
  "?": () => document.getElementById("keys")?.showModal(),
};

// From sibling to sibling the page stays where it was: the same look, the same height.
const PLACE = "eyot-place";
const clutchOf = (path) => path.split("/").slice(0, 3).join("/");

function keepPlace() {
  addEventListener("pagehide", () => {
    sessionStorage.setItem(PLACE, JSON.stringify({ clutch: clutchOf(location.pathname), look: current, y: scrollY }));
  });
  const kept = JSON.parse(sessionStorage.getItem(PLACE) || "{}");
  if (kept.clutch !== clutchOf(location.pathname)) return;
  stand(rows().find((row) => row.dataset.look === kept.look));
  scrollTo(0, kept.y);
}

// The dialog for what is said aloud; what was understood is pressed there.
function dictation() {
  document.addEventListener("click", (event) => {
    if (!event.target.closest("[data-dictate]")) return;
    document.getElementById("dictate").showModal();
    document.getElementById("said").focus();
  });
}

export function benchKeys() {
  dictation();
  if (!document.querySelector("[data-bench]")) return;
  keepPlace();
  addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open]")) return;
    if (event.target.matches("input:not([type=radio]), textarea, select")) return;
    if (/^[0-9]$/.test(event.key)) choose(Number(event.key));
    else if (ACTIONS[event.key]) ACTIONS[event.key]();
    else return;
    event.preventDefault();
  });
  document.body.addEventListener("click", (event) => {
    const link = event.target.closest("[data-jump]");
    if (!link) return;
    event.preventDefault();
    const row = document.querySelector(`.look[data-look="${link.dataset.jump}"]`);
    stand(row);
    row?.querySelector(".level")?.focus();
  });
  document.body.addEventListener("htmx:afterSettle", () => {
    dropDoubles();
    stand(rows().find((row) => row.dataset.look === current));
  });
  document.body.addEventListener("change", (event) => {
    if (event.target.matches("[data-stage]")) location.search = `?stage=${event.target.value}`;
  });
}
