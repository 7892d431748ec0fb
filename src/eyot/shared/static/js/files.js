// Pictures that wait to be sent, in the browser's own database, by the key of their entry.
const NAME = "eyot-files", STORE = "files";

/** @returns {Promise<IDBDatabase>} */
function opened() {
  return new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1);
    request.onupgradeneeded = () => request.result.createObjectStore(STORE);
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
}

/**
 * @param {IDBTransactionMode} mode
 * @param {(store: IDBObjectStore) => IDBRequest} work
 * @returns {Promise<any>}
 */
async function inStore(mode, work) {
  const database = await opened();
  try {
    return await new Promise((resolve, reject) => {
      const transaction = database.transaction(STORE, mode);
      const request = work(transaction.objectStore(STORE));
      transaction.oncomplete = () => resolve(request.result);
      transaction.onerror = () => reject(transaction.error);
    });
  } finally {
    database.close();
  }
}

export const keepFile = (/** @type {string} */ key, /** @type {File} */ file) => inStore("readwrite", (store) => store.put(file, key));
export const keptFile = (/** @type {string} */ key) => inStore("readonly", (store) => store.get(key));
export const forgetFile = (/** @type {string} */ key) => inStore("readwrite", (store) => store.delete(key)).catch(() => {});
