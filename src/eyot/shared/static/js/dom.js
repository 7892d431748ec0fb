// What is looked up in a page. The elements asked for are those that the page's template has.

/**
 * The first element that matches.
 * @param {string} selector
 * @param {ParentNode} [root]
 * @returns {HTMLElement}
 */
export const find = (selector, root = document) => root.querySelector(selector);

/**
 * The first field of a form that matches.
 * @param {string} selector
 * @param {ParentNode} [root]
 * @returns {HTMLInputElement}
 */
export const field = (selector, root = document) => root.querySelector(selector);

/**
 * All elements that match, in the order of the page.
 * @param {string} selector
 * @param {ParentNode} [root]
 * @returns {HTMLElement[]}
 */
export const all = (selector, root = document) => [...root.querySelectorAll(selector)].map((one) => /** @type {HTMLElement} */ (one));

/**
 * The element that an event came from.
 * @param {Event} event
 * @returns {HTMLInputElement}
 */
export const origin = (event) => /** @type {HTMLInputElement} */ (event.target);

/**
 * The element that an event came from, or the closest around it, that matches.
 * @param {Event} event
 * @param {string} selector
 * @returns {HTMLInputElement}
 */
export const around = (event, selector) => /** @type {Element} */ (event.target).closest?.(selector);

/**
 * A form's field by its name.
 * @param {HTMLElement} form
 * @param {string} name
 * @returns {HTMLInputElement}
 */
export const named = (form, name) => /** @type {HTMLInputElement} */ (/** @type {HTMLFormElement} */ (form).elements.namedItem(name));
