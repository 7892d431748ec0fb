// The large photo: another stage by a click, zoom and pan in a dialog, pictures dropped onto the form.
let scale = 1;
let at = { x: 0, y: 0 };

function place(image) {
  image.setAttribute("width", Math.round(image.naturalWidth * scale));
  const pan = image.parentElement;
  pan.scrollTo(at.x, at.y);
}

function zoomBy(pan, factor, point) {
  const image = pan.querySelector("img");
  const before = scale;
  scale = Math.min(4, Math.max(0.15, scale * factor));
  const grown = scale / before;
  at = { x: (pan.scrollLeft + point.x) * grown - point.x, y: (pan.scrollTop + point.y) * grown - point.y };
  place(image);
}

function openZoom() {
  const dialog = document.getElementById("zoomed");
  const image = dialog.querySelector("img");
  image.onload = () => {
    const pan = image.parentElement;
    scale = Math.min(pan.clientWidth / image.naturalWidth, pan.clientHeight / image.naturalHeight);
    at = { x: 0, y: 0 };
    place(image);
  };
  image.src = document.getElementById("large-photo").dataset.full;
  dialog.showModal();
}

function panning(pan) {
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

// Chosen or dropped pictures go off at once; without scripts the form has a button.
function sending(form) {
  form.querySelector("input[type=file]").addEventListener("change", () => {
    form.querySelector("label").textContent = "Sending …";
    form.requestSubmit();
  });
  form.addEventListener("dragover", (event) => { event.preventDefault(); form.classList.add("over"); });
  form.addEventListener("dragleave", () => form.classList.remove("over"));
  form.addEventListener("drop", (event) => {
    event.preventDefault();
    const chosen = form.querySelector("input[type=file]");
    chosen.files = event.dataTransfer.files;
    chosen.dispatchEvent(new Event("change"));
  });
}

function shownPart(image) {
  const frame = image.getBoundingClientRect();
  const size = Math.min(frame.width / image.naturalWidth, frame.height / image.naturalHeight);
  const width = image.naturalWidth * size, height = image.naturalHeight * size;
  return { left: frame.left + (frame.width - width) / 2, top: frame.top + (frame.height - height) / 2, width, height };
}

const CHART = "colour chart", PATCHES = ["brown", "bluish green", "black", "white"];
let card = "";
let aim = { x: 0.5, y: 0.5 };
let corners = [];

function showAim() {
  const image = document.getElementById("large-photo");
  const cross = document.querySelector(".crosshair");
  const part = shownPart(image), frame = cross.parentElement.getBoundingClientRect();
  cross.toggleAttribute("hidden", !card);
  const x = part.left - frame.left + aim.x * part.width, y = part.top - frame.top + aim.y * part.height;
  cross.firstElementChild.setAttribute("transform", `translate(${Math.round(x)} ${Math.round(y)})`);
}

function askFor() {
  const what = card === CHART ? `the ${PATCHES[corners.length]} corner patch` : `the ${card}`;
  document.querySelector("[data-light-words]").textContent = `point at ${what} in the photo (or arrow keys, Enter)`;
}

function startMarking(button) {
  const image = document.getElementById("large-photo");
  if (!image) return;
  card = button.dataset.card;
  aim = { x: 0.5, y: 0.5 };
  corners = [];
  askFor();
  document.querySelectorAll("[data-card], [data-borrow]").forEach((other) => { other.hidden = true; });
  image.tabIndex = 0;
  image.focus();
  showAim();
}

// A card takes one place, a chart the middles of its four corner patches.
function markLight() {
  if (card === CHART) {
    corners.push(`${aim.x.toFixed(4)},${aim.y.toFixed(4)}`);
    if (corners.length < PATCHES.length) return askFor();
  }
  sendLight(card, aim, corners);
  card = "";
  return undefined;
}

export function sendLight(marked, at, places) {
  const form = document.querySelector("[data-light]");
  form.elements.card.value = marked;
  form.elements.x.value = at.x.toFixed(4);
  form.elements.y.value = at.y.toFixed(4);
  form.elements.corners.value = places.join(" ");
  form.requestSubmit();
}

function pointAt(event) {
  const part = shownPart(event.target);
  aim = { x: (event.clientX - part.left) / part.width, y: (event.clientY - part.top) / part.height };
  markLight();
}

const STEPS = { ArrowLeft: [-0.01, 0], ArrowRight: [0.01, 0], ArrowUp: [0, -0.01], ArrowDown: [0, 0.01] };

function aiming(event) {
  if (!card || event.target.id !== "large-photo") return;
  if (event.key === "Enter") markLight();
  if (event.key === "Escape") location.reload();
  if (STEPS[event.key]) {
    const [x, y] = STEPS[event.key];
    aim = { x: Math.min(1, Math.max(0, aim.x + x)), y: Math.min(1, Math.max(0, aim.y + y)) };
    showAim();
  }
  event.preventDefault();
  event.stopPropagation();
}

// Two stages of one hatchling in one strip: left of the line the other stage, right of it this one.
function wiping() {
  const draw = (wipe) => {
    const share = wipe.querySelector("[data-wipe-line]").value / 10;
    wipe.style.setProperty("--wiped", `${share}%`);
  };
  document.addEventListener("input", (event) => {
    if (event.target.matches("[data-wipe-line]")) draw(event.target.closest("[data-wipe]"));
    if (event.target.matches("[data-wipe-to]")) {
      document.querySelectorAll("[data-over]").forEach((image) => { image.hidden = image.dataset.over !== event.target.value; });
    }
  });
}

export function showPhotos() {
  wiping();
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-card]");
    const borrow = event.target.closest("[data-borrow]");
    if (borrow) borrow.form.elements.card.value = "borrowed";
    if (button) startMarking(button);
    else if (event.target.id === "large-photo" && card) pointAt(event);
    else if (event.target.id === "large-photo" || event.target.closest("[data-zoom-open]")) openZoom();
  });
  document.addEventListener("keydown", aiming, { capture: true });
  // While a card is pointed at, the photos are not drawn anew.
  document.body.addEventListener("htmx:beforeRequest", (event) => { if (card && event.target.matches(".photos")) event.preventDefault(); });
  document.body.addEventListener("htmx:beforeSwap", (event) => { if (card && event.target.matches(".photos")) event.detail.shouldSwap = false; });
  const pan = document.querySelector("#zoomed .pan");
  if (pan) panning(pan);
  document.querySelectorAll("[data-drop]").forEach(sending);
  document.body.addEventListener("htmx:load", (event) => event.target.querySelectorAll("[data-drop]").forEach(sending));
}
