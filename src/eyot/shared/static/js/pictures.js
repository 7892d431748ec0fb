// Pictures on their way to the inbox, in a database of their own: an evening's photos do not stand before a look that was entered.
import { openDB } from "./idb.js";

/**
 * @typedef {object} Picture
 * @property {string} key its number
 * @property {string} drop what was dropped at once
 * @property {number} place among the files of its drop
 * @property {string} name
 * @property {number} modified when the file was written, milliseconds since 1970
 * @property {Blob} file
 * @property {string} url where it goes
 */

/** @typedef {{drop: string, url: string, count: number}} Drop */

/** @type {Promise<any>} */
let opened = null;
/** @type {Map<string, Picture>} what the device has no room for stays with the page */
const unkept = new Map();

function database() {
  opened ??= openDB("eyot-inbox", 1, {
    upgrade: (/** @type {any} */ made) => { made.createObjectStore("pictures", { keyPath: "key" }); made.createObjectStore("drops", { keyPath: "drop" }); },
  });
  return opened;
}

/**
 * Keeps a picture on the device; tells whether it has room for it.
 * @param {Picture} picture
 */
export async function keepPicture(picture) {
  try {
    await (await database()).put("pictures", picture);
    return true;
  } catch {
    unkept.set(picture.key, picture);
    return false;
  }
}

/** @param {Drop} drop */
export const keepDrop = async (drop) => (await database()).put("drops", drop).catch(() => {});

/** @param {string} key */
export async function forgetPicture(key) {
  unkept.delete(key);
  await (await database()).delete("pictures", key);
}

/** @param {string} drop */
export const forgetDrop = async (drop) => (await database()).delete("drops", drop);

/**
 * One picture; none where it is gone.
 * @param {string} key
 * @returns {Promise<Picture | undefined>}
 */
export const pictureOf = async (key) => unkept.get(key) ?? (await database()).get("pictures", key);

/**
 * The numbers of the pictures that wait for an address, in the order of their drops.
 * @param {string} url
 * @returns {Promise<{key: string, drop: string}[]>}
 */
export async function waitingFor(url) {
  const store = (await database()).transaction("pictures").store, all = [...unkept.values()];
  for (let cursor = await store.openCursor(); cursor; cursor = await cursor.continue()) all.push(cursor.value);
  return all.filter((one) => one.url === url).sort((one, other) => one.drop.localeCompare(other.drop) || one.place - other.place).map(({ key, drop }) => ({ key, drop }));
}

/**
 * The drops of an address that have not ended.
 * @param {string} url
 * @returns {Promise<Drop[]>}
 */
export const dropsOf = async (url) => (await (await database()).getAll("drops")).filter((/** @type {Drop} */ one) => one.url === url);
