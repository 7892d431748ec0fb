// Nothing is drawn anew under a finger: a button that is replaced between press and release gets no click, and what was pressed
// would be lost without a word. What comes back meanwhile waits until the finger is lifted and its click is done.

const PRESSED = "a, button, input, label, summary";
const CLICK_MS = 60; // a touch's click comes a moment after the finger is lifted

let isDown = false;
/** @type {ReturnType<typeof setTimeout>} */
let lifting = null;
/** @type {(() => void)[]} */
const held = [];

/**
 * Does it at once, or when the finger is lifted.
 * @param {() => void} work
 */
export function whenLifted(work) {
  if (isDown) held.push(work);
  else work();
}

/** @param {Event} event */
function press(event) {
  const { target, button, isPrimary } = /** @type {PointerEvent} */ (event), on = /** @type {Element} */ (target);
  if (!isPrimary || button || !on.closest(PRESSED) || on.closest("select")) return; // a list that opens may swallow the release
  clearTimeout(lifting);
  lifting = null;
  isDown = true;
}

function lift() {
  if (!isDown) return;
  lifting ??= setTimeout(() => {
    lifting = null;
    isDown = false;
    held.splice(0).forEach((work) => work());
  }, CLICK_MS);
}

export function holdStill() {
  addEventListener("pointerdown", press, { capture: true });
  for (const type of ["pointerup", "pointercancel"]) addEventListener(type, lift, { capture: true });
  // A window or a menu that lies above hears of the release in this one's place.
  addEventListener("blur", lift);
  addEventListener("pointermove", (event) => { if (!event.buttons) lift(); });
  document.body.addEventListener("htmx:beforeSend", ({ detail: { xhr } }) => {
    const load = /** @type {() => void} */ (xhr.onload);
    xhr.onload = () => whenLifted(load);
  });
}
