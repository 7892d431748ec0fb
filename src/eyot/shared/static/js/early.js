// A slow phone shows a page before its scripts run. What is pressed until then is held, and done in its order once they listen; what
// a page does by itself (a link, a word typed into a field) is left alone. Loaded ahead of the page, as a plain script.
(() => {
  /** @type {(() => void)[]} */
  const held = [];
  const stop = new AbortController();
  const HELD = "button, [hx-get], [hx-post]";

  /** @param {Event} event */
  const target = (event) => /** @type {HTMLElement} */ (event.target);

  /**
   * @param {Event} event
   * @param {HTMLElement} on
   * @param {() => void} again
   */
  function hold(event, on, again) {
    event.stopImmediatePropagation();
    held.push(() => { if (on.isConnected) again(); });
  }

  /** @param {Event} event */
  function click(event) {
    const on = /** @type {HTMLElement} */ (target(event).closest(`a, input, label, select, summary, textarea, ${HELD}`));
    if (!on?.matches(HELD)) return;
    event.preventDefault();
    hold(event, target(event), () => target(event).dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true })));
  }

  /** @param {Event} event */
  function change(event) {
    hold(event, target(event), () => target(event).dispatchEvent(new Event("change", { bubbles: true })));
  }

  /** @param {KeyboardEvent} event */
  function press(event) {
    const { key, code, shiftKey, ctrlKey, altKey, metaKey } = event;
    if (target(event).closest("input, select, textarea")) return;
    const again = { key, code, shiftKey, ctrlKey, altKey, metaKey, bubbles: true, cancelable: true };
    hold(event, target(event), () => target(event).dispatchEvent(new KeyboardEvent("keydown", again)));
  }

  // Modules have run by now; htmx looks through the page at this same event, so that what is held waits for that. Nothing more is held.
  function begin() {
    stop.abort();
    setTimeout(() => held.splice(0).forEach((one) => one()));
  }

  const how = { capture: true, signal: stop.signal };
  document.addEventListener("click", click, how);
  document.addEventListener("change", change, how);
  document.addEventListener("keydown", press, how);
  document.addEventListener("DOMContentLoaded", begin);
})();
