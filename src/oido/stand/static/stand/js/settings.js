/** Settings kept in this browser, each a small object under its name. */

/** @template T @param {string} name @param {T} otherwise @returns {T} */
export function read(name, otherwise) {
  try {
    return JSON.parse(localStorage.getItem(`oido-${name}`) ?? "null") ?? otherwise;
  } catch {
    return otherwise;
  }
}

/** @param {string} name @param {unknown} value */
export function keep(name, value) {
  localStorage.setItem(`oido-${name}`, JSON.stringify(value));
}
