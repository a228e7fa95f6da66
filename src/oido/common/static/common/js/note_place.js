/** Places of drawn notes: their ids are what `ear.note_place` writes, a letter and a number. */

/** @param {Element} note @returns {string} its number in the part, or in the take for a played one */
export const numberOf = (note) => note.id.slice(1);

/** @param {string | number} number of a written note @returns {string} */
export const targetId = (number) => `t${number}`;

/** @param {Element} note @returns {boolean} is it a played note? */
export const isPlayed = (note) => note.id.startsWith("k");
