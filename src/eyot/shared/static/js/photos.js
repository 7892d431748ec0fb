// The large photo: another stage by a click, zoom and pan in a dialog, pictures dropped onto the form.
import { all, around, field, find, named, origin } from "./dom.js";
import { shownPart, within } from "./geometry.js";
import { LightMark } from "./light.js";
import { takeChecked } from "./check.js";
import { remaining, sendAll, shelve } from "./outbox.js";

let scale = 1;
let at = { x: 0, y: 0 };

/** @param {HTMLImageElement} image */
function place(image) {
  image.setAttribute("width", String(Math.round(image.naturalWidth * scale)));
  const pan = image.parentElement;
  pan.scrollTo(at.x, at.y);
}

/**
 * @param {HTMLElement} pan
 * @param {number} factor
 * @param {{x: number, y: number}} point
 */
function zoomBy(pan, factor, point) {
  const image = pan.querySelector("img");
  const before = scale;
  scale = within(scale * factor, 0.15, 4);
  const grown = scale / before;
  at = { x: (pan.scrollLeft + point.x) * grown - point.x, y: (pan.scrollTop + point.y) * grown - point.y };
  place(image);
}

function openZoom() {
  const dialog = /** @type {HTMLDialogElement} */ (document.getElementById("zoomed"));
  const image = dialog.querySelector("img");
  image.onload = () => {
    const pan = image.parentElement;
    scale = Math.min(pan.clientWidth / image.naturalWidth, pan.clientHeight / image.naturalHeight);
    at = { x: 0, y: 0 };
    place(image);
  };
  image.src = large().dataset.full;
  dialog.showModal();
}

/** @param {HTMLElement} pan */
function panning(pan) {
  /** @type {{x: number, y: number}} */
  let from = null;
  pan.addEventListener("pointerdown", (event) => {
    if (event.pointerType === "mouse") from = { x: event.clientX + pan.scrollLeft, y: event.clientY + pan.scrollTop };
  });
  addEventListener("pointerup", () => { from = null; });
  pan.addEventListener("pointermove", (event) => { if (from) pan.scrollTo(from.x - event.clientX, from.y - event.clientY); });
  pan.addEventListener("wheel", (event) => {
    event.preventDefault();
    const frame = pan.getBoundingClientRect();
    zoomBy(pan, event.deltaY < 0 ? 1.2 : 1 / 1.2, { x: event.clientX - frame.left, y: event.clientY - frame.top });
  }, { passive: false });
  pan.addEventListener("keydown", (event) => {
    const middle = { x: pan.clientWidth / 2, y: pan.clientHeight / 2 };
    if (event.key === "+" || event.key === "=") zoomBy(pan, 1.25, middle);
    if (event.key === "-") zoomBy(pan, 1 / 1.25, middle);
  });
}

// Chosen or dropped pictures are kept on the device and go off one by one; without scripts the form has a button.
/** @param {HTMLFormElement} form */
async function takeIn(form) {
  const { files } = field("input[type=file]", form), label = find("label", form);
  const words = `${document.title.split(" · ")[0]}: photo`, isTaken = matchMedia("(pointer: coarse)").matches && files.length === 1;
  if (isTaken) await takeChecked(form.action, words, files[0]);
  else for (const file of [...files]) await shelve(form.action, {}, { words, file });
  form.reset();
  const tell = () => { label.textContent = remaining().waiting ? `Sending ${remaining().waiting} …` : "Add photos"; };
  tell();
  document.addEventListener("eyot:sent", tell);
  await sendAll();
  document.removeEventListener("eyot:sent", tell);
  if (remaining().waiting) label.textContent = `${remaining().waiting} kept on this device`;
  showAdded();
}

function showAdded() {
  if (!marking && find(".photos")) htmx.ajax("GET", location.href, { source: ".photos", target: ".photos", select: ".photos", swap: "outerHTML" }).catch(() => {}); // without a signal it is seen later
}

/** @param {HTMLFormElement} form */
function sending(form) {
  if (form.dataset.drop) return; // is listened to already
  form.dataset.drop = "ready";
  field("input[type=file]", form).addEventListener("change", () => takeIn(form));
  form.addEventListener("dragover", (event) => { event.preventDefault(); form.classList.add("over"); });
  form.addEventListener("dragleave", () => form.classList.remove("over"));
  form.addEventListener("drop", (event) => {
    event.preventDefault();
    const chosen = field("input[type=file]", form);
    chosen.files = event.dataTransfer.files;
    chosen.dispatchEvent(new Event("change"));
  });
}

/** @param {HTMLImageElement} image */
const partOf = (image) => shownPart(image.getBoundingClientRect(), { width: image.naturalWidth, height: image.naturalHeight });

/** @type {LightMark} */
let marking = null;
let aim = { x: 0.5, y: 0.5 };

const large = () => /** @type {HTMLImageElement} */ (document.getElementById("large-photo"));

function showAim() {
  const cross = find(".crosshair");
  const part = partOf(large()), frame = cross.parentElement.getBoundingClientRect();
  cross.toggleAttribute("hidden", !marking);
  const x = part.left - frame.left + aim.x * part.width, y = part.top - frame.top + aim.y * part.height;
  cross.firstElementChild.setAttribute("transform", `translate(${Math.round(x)} ${Math.round(y)})`);
}

const askFor = () => { find("[data-light-words]").textContent = `point at ${marking.wanted} in the photo (or arrow keys, Enter)`; };

/** @param {HTMLElement} button */
function startMarking(button) {
  if (!large()) return;
  marking = new LightMark(button.dataset.card);
  aim = { x: 0.5, y: 0.5 };
  askFor();
  LightMark.hideChoices();
  large().tabIndex = 0;
  large().focus();
  showAim();
}

function markLight() {
  if (!marking.take(aim)) return askFor();
  marking.send(aim);
  marking = null;
  return undefined;
}

/** @param {MouseEvent} event */
function pointAt(event) {
  const part = partOf(large());
  aim = { x: (event.clientX - part.left) / part.width, y: (event.clientY - part.top) / part.height };
  markLight();
}

/** @type {Record<string, [number, number]>} */
const STEPS = { ArrowLeft: [-0.01, 0], ArrowRight: [0.01, 0], ArrowUp: [0, -0.01], ArrowDown: [0, 0.01] };

/** @param {KeyboardEvent} event */
function aiming(event) {
  if (!marking || origin(event).id !== "large-photo") return;
  if (event.key === "Enter") markLight();
  if (event.key === "Escape") location.reload();
  if (STEPS[event.key]) {
    const [x, y] = STEPS[event.key];
    aim = { x: within(aim.x + x, 0, 1), y: within(aim.y + y, 0, 1) };
    showAim();
  }
  event.preventDefault();
  event.stopPropagation();
}

// Two stages of one hatchling in one strip: left of the line the other stage, right of it this one.
function wiping() {
  document.addEventListener("input", (event) => {
    const moved = origin(event);
    if (moved.matches("[data-wipe-line]")) /** @type {HTMLElement} */ (moved.closest("[data-wipe]")).style.setProperty("--wiped", `${Number(moved.value) / 10}%`);
    if (moved.matches("[data-wipe-to]")) {
      all("[data-over]").forEach((image) => { image.hidden = image.dataset.over !== moved.value; });
    }
  });
}

/** @param {ParentNode} root */
const sendingIn = (root) => all("[data-drop]", root).forEach((form) => sending(/** @type {HTMLFormElement} */ (form)));

export function showPhotos() {
  wiping();
  document.addEventListener("eyot:changed", showAdded);
  document.addEventListener("click", (event) => {
    const button = around(event, "[data-card]");
    const borrow = around(event, "[data-borrow]");
    if (borrow) named(borrow.form, "card").value = "borrowed";
    if (button) startMarking(button);
    else if (origin(event).id === "large-photo" && marking) pointAt(event);
    else if (origin(event).id === "large-photo" || around(event, "[data-zoom-open]")) openZoom();
  });
  document.addEventListener("keydown", aiming, { capture: true });
  // While a card is pointed at, the photos are not drawn anew.
  document.body.addEventListener("htmx:beforeRequest", (event) => { if (marking && origin(event).matches(".photos")) event.preventDefault(); });
  document.body.addEventListener("htmx:beforeSwap", (event) => { if (marking && origin(event).matches(".photos")) event.detail.shouldSwap = false; });
  const pan = find("#zoomed .pan");
  if (pan) panning(pan);
  sendingIn(document);
  document.body.addEventListener("htmx:load", (event) => sendingIn(origin(event)));
}
