/** In place of the browser's database: one for all who open it, in memory. */

/** @type {Map<string, any>} */
export const rows = new Map();

export async function openDB() {
  return {
    put: async (/** @type {string} */ _store, /** @type {any} */ row) => void rows.set(row.id, structuredClone(row)),
    delete: async (/** @type {string} */ _store, /** @type {string} */ id) => void rows.delete(id),
    getAll: async () => structuredClone([...rows.values()]),
  };
}
