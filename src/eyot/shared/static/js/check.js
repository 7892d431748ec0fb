// A photo that was taken this moment is checked before it goes off: what is wrong is told at once, while the animal still lies there. It is
// kept on the device first, so that nothing is lost whatever happens meanwhile; without an answer in time it simply goes off.
import { find } from "./dom.js";
import { forget } from "./shelf.js";
import { release, sendAll, shelve } from "./outbox.js";

const SIDE = 1200;
const PATIENCE_MS = 2500;

const prefix = () => location.pathname.match(/^\/in\/[-\w]+/)?.[0] ?? "";
const token = () => JSON.parse(document.body.getAttribute("hx-headers") || "{}")["X-CSRFToken"];

/**
 * A small copy of a picture; none where the browser can't read it.
 * @param {File} file
 * @returns {Promise<Blob | null>}
 */
async function smallCopy(file) {
  const image = await createImageBitmap(file).catch(() => /** @type {ImageBitmap} */ (null));
  if (!image) return null;
  const factor = Math.min(1, SIDE / Math.max(image.width, image.height));
  const canvas = Object.assign(document.createElement("canvas"), { width: Math.round(image.width * factor), height: Math.round(image.height * factor) });
  canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
  image.close();
  return new Promise((done) => { canvas.toBlob(done, "image/jpeg", 0.9); });
}

/**
 * What is wrong with a picture, as the page shows it; nothing where nothing is, or nobody answers in time.
 * @param {File} file
 */
export async function faultsOf(file) {
  const small = await smallCopy(file);
  if (!small) return "";
  const body = new FormData();
  body.append("photo", small, "small.jpg");
  const headers = { "X-CSRFToken": token(), "HX-Request": "true" };
  const asked = fetch(`${prefix()}/photos/check/`, { method: "POST", headers, body, signal: AbortSignal.timeout(PATIENCE_MS) });
  const words = await asked.then((answer) => (answer.status === 200 ? answer.text() : "")).catch(() => ""); // also where only half of an answer comes in time
  return words.startsWith("<ul") ? words : ""; // without a signal a page may come in its place
}

/**
 * Asks whether a picture is to be kept all the same.
 * @param {File} file
 * @param {string} faults
 * @returns {Promise<boolean>}
 */
export function keepAllTheSame(file, faults) {
  const dialog = /** @type {HTMLDialogElement} */ (document.createElement("dialog")), address = URL.createObjectURL(file);
  dialog.className = "taken";
  dialog.setAttribute("aria-label", "The photo that was taken");
  dialog.innerHTML = `<img alt="the photo that was taken">${faults}<p class="doings"><button type="button" class="go" data-keep>Keep it all the same</button><button type="button" class="go other" data-again>Take another</button></p>`;
  /** @type {HTMLImageElement} */ (/** @type {unknown} */ (find("img", dialog))).src = address;
  document.body.append(dialog);
  dialog.showModal();
  return new Promise((done) => {
    /** @param {boolean} keep */
    const end = (keep) => { URL.revokeObjectURL(address); dialog.remove(); done(keep); };
    find("[data-keep]", dialog).addEventListener("click", () => end(true));
    find("[data-again]", dialog).addEventListener("click", () => end(false));
    dialog.addEventListener("cancel", () => end(true));
  });
}

/**
 * Takes a picture that was taken this moment: kept, checked, and sent unless another is to be taken. Tells whether it is kept.
 * @param {string} url
 * @param {string} words
 * @param {File} file
 */
export async function takeChecked(url, words, file) {
  const kept = await shelve(url, {}, { words, file, held: true });
  const faults = await faultsOf(file);
  const isKept = !faults || (await keepAllTheSame(file, faults));
  await (isKept ? release(kept.key) : forget(kept.key));
  sendAll();
  return isKept;
}
