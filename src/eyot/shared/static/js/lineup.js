// The line-up: rows dragged to order, strips zoomed and moved in step, two laid over each other.
const WIDTH = 1200, HEIGHT = 161;
let view = { x: 0, y: 0, width: WIDTH, height: HEIGHT };
let blinking = 0;

const rows = () => [...document.querySelectorAll("[data-row]")];
const picked = () => rows().filter((row) => row.querySelector("[data-pick]").checked);

function look() {
  const box = `${view.x} ${view.y} ${view.width} ${view.height}`;
  document.querySelectorAll("[data-view]").forEach((strip) => strip.setAttribute("viewBox", box));
  document.querySelectorAll("[data-axis]").forEach((axis) => axis.setAttribute("viewBox", `${view.x} 0 ${view.width} 20`));
}

function keepInside() {
  view.width = Math.min(WIDTH, Math.max(WIDTH / 12, view.width));
  view.height = (HEIGHT * view.width) / WIDTH;
  view.x = Math.min(WIDTH - view.width, Math.max(0, view.x));
  view.y = Math.min(HEIGHT - view.height, Math.max(0, view.y));
  look();
}

function zoom(factor, share = 0.5, height = 0.5) {
  const wide = Math.min(WIDTH, Math.max(WIDTH / 12, view.width / factor));
  view.x += (view.width - wide) * share;
  view.y += ((view.width - wide) * HEIGHT * height) / WIDTH;
  view.width = wide;
  keepInside();
}

function order() {
  const names = rows().map((row) => row.dataset.row).join(",");
  const address = new URL(location.href);
  address.searchParams.set("order", names);
  history.replaceState(null, "", address);
  document.querySelectorAll("[data-order]").forEach((field) => { field.value = names; });
  const save = document.querySelector("[data-save]");
  save.href = `${save.href.split("?")[0]}${address.search}`;
  document.querySelector("[data-line-up] [name=query]").value = address.search.slice(1);
}

function moveRow(row, by) {
  const all = rows(), to = all.indexOf(row) + by;
  if (to < 0 || to >= all.length) return;
  if (by < 0) all[to].before(row); else all[to].after(row);
  order();
}

// A row is dragged by its name; strips are moved in step by dragging them.
function dragging(list) {
  let held = null, from = null;
  list.addEventListener("pointerdown", (event) => {
    if (event.button || event.target.closest("button, input, a, label.pick input")) return;
    const strip = event.target.closest("[data-view]");
    if (strip) from = { x: event.clientX, y: event.clientY, view: { ...view }, unit: view.width / strip.getBoundingClientRect().width, tall: view.height / strip.getBoundingClientRect().height };
    else if (event.target.closest(".row-name") && event.pointerType === "mouse") held = event.target.closest("[data-row]");
    if (strip || held) { event.preventDefault(); list.setPointerCapture(event.pointerId); }
    held?.classList.add("held");
  });
  list.addEventListener("pointermove", (event) => {
    if (from) {
      view.x = from.view.x - (event.clientX - from.x) * from.unit;
      view.y = from.view.y - (event.clientY - from.y) * from.tall;
      keepInside();
    }
    if (!held) return;
    const over = rows().find((row) => row !== held && event.clientY > row.getBoundingClientRect().top && event.clientY < row.getBoundingClientRect().bottom);
    if (!over) return;
    const frame = over.getBoundingClientRect();
    if (event.clientY < frame.top + frame.height / 2) over.before(held); else over.after(held);
  });
  const end = () => { if (held) { held.classList.remove("held"); order(); } [held, from] = [null, null]; };
  list.addEventListener("pointerup", end);
  list.addEventListener("pointercancel", end);
  list.addEventListener("wheel", (event) => {
    const strip = event.target.closest("[data-view]");
    if (!strip) return;
    event.preventDefault();
    const frame = strip.getBoundingClientRect();
    zoom(event.deltaY < 0 ? 1.25 : 0.8, (event.clientX - frame.left) / frame.width, (event.clientY - frame.top) / frame.height);
  }, { passive: false });
}

function tell() {
  const chosen = picked(), own = chosen.filter((row) => row.dataset.row.startsWith("e"));
  document.querySelector("[data-pair]").disabled = chosen.length !== 2 || chosen.some((row) => !row.querySelector("[data-view]"));
  document.querySelector("[data-tick]").disabled = !own.length;
  document.querySelector("[data-picked]").textContent = chosen.length
    ? `Picked: ${chosen.map((row) => row.querySelector(".number").textContent).join(", ")}.`
    : "Pick two to lay one over the other, or several to note one look for all of them.";
}

function wipe(at) {
  document.querySelector("#wipe rect").setAttribute("width", at);
  document.querySelector(".pair-strips .edge").setAttribute("d", `M${at} 0V161`);
}

function openPair() {
  const dialog = document.getElementById("pair"), [first, second] = picked();
  const source = (row) => row.querySelector("[data-view] image").getAttribute("href");
  dialog.querySelector("[data-above]").setAttribute("href", source(first));
  dialog.querySelector("[data-below]").setAttribute("href", source(second));
  dialog.querySelector("[data-first]").textContent = first.querySelector(".number").textContent;
  dialog.querySelector("[data-second]").textContent = second.querySelector(".number").textContent;
  const apart = document.querySelector(`[data-between="${first.dataset.row} ${second.dataset.row}"]`);
  dialog.querySelector("[data-apart]").textContent = apart ? apart.textContent : "";
  wipe(600);
  dialog.querySelector("[data-wipe]").value = 600;
  dialog.showModal();
}

function blink(button) {
  if (blinking) {
    clearInterval(blinking);
    blinking = 0;
    wipe(document.querySelector("[data-wipe]").value);
  } else {
    let over = false;
    blinking = setInterval(() => { over = !over; wipe(over ? WIDTH : 0); }, 700);
  }
  button.setAttribute("aria-pressed", String(Boolean(blinking)));
}

export function lineUp() {
  const list = document.querySelector("[data-rows]");
  if (!list) return;
  dragging(list);
  document.addEventListener("change", (event) => { if (event.target.matches("[data-pick]")) tell(); });
  document.addEventListener("click", (event) => {
    const by = event.target.closest("[data-move]");
    if (by) moveRow(by.closest("[data-row]"), Number(by.dataset.move));
    if (event.target.closest("[data-pair]")) openPair();
    if (event.target.closest("[data-print]")) print();
    if (event.target.closest("[data-blink]")) blink(event.target.closest("[data-blink]"));
    if (event.target.closest("[data-close]")) document.getElementById("pair").close();
  });
  document.querySelector("[data-wipe]").addEventListener("input", (event) => wipe(event.target.value));
  document.getElementById("pair").addEventListener("close", () => { if (blinking) blink(document.querySelector("[data-blink]")); });
  addEventListener("keydown", (event) => {
    if (event.target.matches("input, select, textarea") || event.ctrlKey || event.metaKey) return;
    if (event.key === "+" || event.key === "=") zoom(1.25);
    if (event.key === "-") zoom(0.8);
    if (event.key === "0") zoom(1 / 12);
  });
  tell();
}
