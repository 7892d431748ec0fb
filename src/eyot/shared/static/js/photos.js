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

export function showPhotos() {
  const large = document.getElementById("large-photo");
  document.querySelectorAll(".stage[data-photo]").forEach((link) => link.addEventListener("click", (event) => {
    event.preventDefault();
    large.src = link.dataset.photo;
    large.dataset.full = link.href;
    document.querySelector(".pin").href = link.dataset.pin;
    document.querySelectorAll(".stage").forEach((other) => other.toggleAttribute("aria-current", other === link));
  }));
  document.querySelector("[data-zoom-open]")?.addEventListener("click", openZoom);
  large?.addEventListener("click", openZoom);
  const pan = document.querySelector("#zoomed .pan");
  if (pan) panning(pan);
  document.querySelectorAll("[data-drop]").forEach(sending);
}
