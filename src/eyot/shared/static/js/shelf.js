// The shelf: what was entered and the server has not taken yet, with its pictures, in the browser's own database.
// An entry is there for good once the promise is kept, also where the browser is ended in the next moment.
import { openDB } from "./idb.js";

/**
 * @typedef {object} Entry
 * @property {number} [number] its place in the order
 * @property {string} key
 * @property {string} url
 * @property {Record<string, string>} values
 * @property {number} at since when it waits
 * @property {string} person by whom it was made
 * @property {string} words what it is, for the keeper
 * @property {Blob} file
 * @property {string} name of the file
 * @property {string} aside why it was not taken; empty while it waits
 * @property {string} stands what is true instead, where it is asked once more
 * @property {number} tries how often the server broke over it
 * @property {string} [held] the page that holds it back until somebody has decided there
 */

const STORE = "entries";
const OLD = "eyot-outbox";
/** @type {Promise<any>} */
let opened = null;
const others = "BroadcastChannel" in globalThis ? new BroadcastChannel("eyot-shelf") : null;

function database() {
  opened ??= openDB("eyot-shelf", 1, {
    upgrade: (/** @type {any} */ made) => { made.createObjectStore(STORE, { keyPath: "number", autoIncrement: true }).createIndex("key", "key", { unique: true }); },
  });
  return opened;
}

/**
 * @param {(store: any) => Promise<void>} work
 */
async function changing(work) {
  const transaction = (await database()).transaction(STORE, "readwrite", { durability: "strict" });
  await Promise.all([work(transaction.store), transaction.done]);
  told();
  others?.postMessage("changed");
}

const told = () => document.dispatchEvent(new CustomEvent("eyot:shelf"));
others?.addEventListener("message", told);

/**
 * Keeps an entry; one under the same key takes the place of the one before.
 * @param {Entry} entry
 */
export const keep = (entry) => changing(async (store) => {
  const number = await store.index("key").getKey(entry.key);
  await store.put(number === undefined ? entry : { ...entry, number });
});

/** @param {string} key */
export const forget = (key) => changing(async (store) => {
  const number = await store.index("key").getKey(key);
  if (number !== undefined) await store.delete(number);
});

/**
 * All entries of a person, oldest first.
 * @param {string} person
 * @returns {Promise<Entry[]>}
 */
export async function entriesOf(person) {
  return (await (await database()).getAll(STORE)).filter((/** @type {Entry} */ entry) => entry.person === person);
}

/**
 * What an earlier Eyot kept in another place.
 * @param {string} person
 */
export async function moveOld(person) {
  const old = JSON.parse(localStorage.getItem(OLD) || "[]");
  for (const { url, values, at } of old) await keep({ key: values.key, url, values, at, person, words: "", file: null, name: "", aside: "", stands: "", tries: 0 });
  localStorage.removeItem(OLD);
}
