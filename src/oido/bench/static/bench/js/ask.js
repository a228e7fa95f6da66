/** Asking the server: what a tool does to the part, the server does; one at a time, in order. */

/** @returns {HTMLElement} */
export const work = () => /** @type {HTMLElement} */ (document.getElementById("work"));

/** @type {Promise<unknown>} */
let last = Promise.resolve();

/** @param {string} act @param {Record<string, string>} values @param {string} target */
export function post(act, values = {}, target = "#pick") {
  const ask = () => htmx.ajax("POST", `${work().dataset.url}${act}/`, { target, swap: "outerHTML", values });
  last = last.then(ask, ask);
  return last;
}

/** @param {string} tool @param {Record<string, string>} values @param {string} [target] */
export const use = (tool, values, target) => post(`do/${tool}`, values, target);

/** @param {string} id of a field @returns {string} */
export function fieldValue(id) {
  return /** @type {HTMLInputElement | null} */ (document.getElementById(id))?.value ?? "";
}
