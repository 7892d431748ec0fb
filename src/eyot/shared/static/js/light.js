// The light of a photo is marked by taps: a card or paper takes one place, a chart the middles of its four corner patches.
import { all, find, named } from "./dom.js";

const CHART = "colour chart";
const PATCHES = ["brown", "bluish green", "black", "white"];

/** One marking under way. */
export class LightMark {
  /** @param {string} card what is marked: a grey card, white paper, a colour chart */
  constructor(card) {
    this.card = card;
    /** @type {string[]} */
    this.corners = [];
  }

  /** What is to be tapped next, in words. */
  get wanted() {
    return this.card === CHART ? `the ${PATCHES[this.corners.length]} corner patch of the chart` : `the ${this.card}`;
  }

  /**
   * Takes a place (shares of the photo's width and height); tells whether it was the last.
   * @param {{x: number, y: number}} at
   */
  take(at) {
    if (this.card === CHART) this.corners.push(`${at.x.toFixed(4)},${at.y.toFixed(4)}`);
    return this.card !== CHART || this.corners.length === PATCHES.length;
  }

  /** Puts the choices of cards away while one is marked. */
  static hideChoices() {
    for (const other of all("[data-card], [data-borrow]")) other.hidden = true;
  }

  /**
   * Sends the marking off, by the page's own form.
   * @param {{x: number, y: number}} at
   */
  send(at) {
    const form = /** @type {HTMLFormElement} */ (find("[data-light]"));
    const values = { card: this.card, x: at.x.toFixed(4), y: at.y.toFixed(4), corners: this.corners.join(" ") };
    for (const [name, value] of Object.entries(values)) named(form, name).value = value;
    form.requestSubmit();
  }
}
