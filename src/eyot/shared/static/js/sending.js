// Sends what was dropped onto the inbox, several at once, until all of it is there: paused, without a connection, or after the page was
// closed in between, it goes on where it stood. When everything of a drop is sent, the server hears that it has ended.
import { newKey } from "./keys_of_entries.js";
import { dropsOf, forgetDrop, forgetPicture, keepDrop, keepPicture, pictureOf, waitingFor } from "./pictures.js";

/** @typedef {import("./pictures.js").Picture} Picture */
/** @typedef {{sent: number, total: number, keeping: number, state: string, troubles: string[]}} Told */

const AT_ONCE = 2;
const WAITS_MS = [2000, 5000, 15000, 30000];
const LATER = [0, 408, 425, 429, 500, 502, 503, 504, 507];

const inOrder = new Intl.Collator(undefined, { numeric: true });

export class Sending {
  /**
   * @param {{add: string, end: string}} urls
   * @param {() => Record<string, string>} headers
   * @param {(told: Told) => void} tell
   */
  constructor(urls, headers, tell) {
    this.urls = urls;
    this.headers = headers;
    this.tell = tell;
    /** @type {{key: string, drop: string}[]} */
    this.queue = [];
    /** @type {string[]} */
    this.troubles = [];
    this.sent = 0;
    this.total = 0;
    this.keeping = 0;
    this.paused = false;
    this.failed = 0;
    this.running = 0;
    /** @type {ReturnType<typeof setTimeout>} */
    this.timer = null;
  }

  /** Goes on with what an earlier page left. */
  async resume() {
    this.queue = await waitingFor(this.urls.add);
    this.total = this.queue.length;
    await this.go();
  }

  /**
   * Takes what was chosen or dropped; it is kept on the device first, as far as that has room.
   * @param {File[]} files
   */
  async add(files) {
    const drop = newKey(), ordered = [...files].sort((one, other) => one.lastModified - other.lastModified || inOrder.compare(one.name, other.name));
    if (!ordered.length) return;
    this.total += ordered.length;
    this.keeping += ordered.length;
    await keepDrop({ drop, url: this.urls.add, count: ordered.length });
    for (const [place, file] of ordered.entries()) {
      const picture = { key: newKey(), drop, place, name: file.name, modified: file.lastModified, file, url: this.urls.add };
      if (!(await keepPicture(picture))) this.trouble("This device has no room for all of them: leave this page open until they are sent.");
      this.keeping -= 1;
      this.queue.push({ key: picture.key, drop });
      this.show();
    }
    await this.go();
  }

  pause() {
    this.paused = true;
    clearTimeout(this.timer);
    this.show();
  }

  /** Goes on, also where it would have waited. */
  async go() {
    clearTimeout(this.timer);
    this.paused = false;
    this.timer = null;
    const more = Math.min(AT_ONCE, Math.max(1, this.queue.length)) - this.running;
    await Promise.all(Array.from({ length: Math.max(0, more) }, () => this.run()));
  }

  async run() {
    this.running += 1;
    try {
      while (this.queue.length && !this.paused && this.timer === null) await this.one(this.queue.shift());
    } finally {
      this.running -= 1;
    }
    if (!this.running && !this.queue.length && !this.keeping) await this.endDrops();
    this.show();
  }

  /** @param {{key: string, drop: string}} next */
  async one(next) {
    const picture = await pictureOf(next.key);
    if (!picture) return;
    const { status, text } = await this.post(this.urls.add, formOf(picture));
    if (LATER.includes(status) || status === 401 || status === 403) {
      this.queue.unshift(next);
      this.wait(status);
      return;
    }
    if (status >= 400) this.trouble(`${picture.name}: ${text || `the server answered ${status}`}`);
    await forgetPicture(next.key);
    this.failed = 0;
    this.sent += 1;
    this.show();
  }

  /** @param {number} status */
  wait(status) {
    if (this.timer !== null) return;
    if (status === 401 || status === 403) {
      this.paused = true;
      this.trouble("Your login has run out. What is not sent is kept on this device; log in again and open the inbox.");
      return;
    }
    const delay = WAITS_MS[Math.min(this.failed, WAITS_MS.length - 1)];
    this.failed += 1;
    this.timer = setTimeout(() => this.go(), delay);
    this.show();
  }

  /** What was sent whole is told to have ended; a drop that was not stays open. */
  async endDrops() {
    for (const { drop } of await dropsOf(this.urls.add)) {
      const { status } = await this.post(this.urls.end, new URLSearchParams({ drop }));
      if (status >= 200 && status < 500) await forgetDrop(drop);
      else this.wait(status);
    }
  }

  /**
   * @param {string} url
   * @param {BodyInit} body
   */
  async post(url, body) {
    try {
      const answer = await fetch(url, { method: "POST", headers: this.headers(), body });
      const isPlain = (answer.headers.get("content-type") || "").includes("plain");
      return { status: answer.status, text: isPlain ? await answer.text() : "" };
    } catch {
      return { status: 0, text: "" };
    }
  }

  /** @param {string} words */
  trouble(words) {
    if (!this.troubles.includes(words)) this.troubles.push(words);
    this.show();
  }

  show() {
    const state = this.paused ? "paused" : this.timer !== null ? "waiting" : this.sent < this.total ? "sending" : "sent";
    this.tell({ sent: this.sent, total: this.total, keeping: this.keeping, state, troubles: this.troubles });
  }
}

/** @param {Picture} picture */
function formOf(picture) {
  const form = new FormData();
  form.append("key", picture.key);
  form.append("drop", picture.drop);
  form.append("place", String(picture.place));
  form.append("modified", String(picture.modified));
  form.append("photo", picture.file, picture.name);
  return form;
}
