/** Bars by their numbers: a part's first one is bar 1, or bar 0 where it begins with a pick-up. */

/** @typedef {{ number: number }} Numbered */

/** @param {Numbered[]} bars @returns {number} */
export const firstBar = (bars) => bars[0]?.number ?? 1;

/** @param {Numbered[]} bars @returns {number} */
export const lastBar = (bars) => bars.at(-1)?.number ?? 1;

/** Where a bar stands in its row.
 * @param {Numbered[]} bars @param {number} number @returns {number} */
export const barIndex = (bars, number) => number - firstBar(bars);

/** @template {Numbered} T @param {T[]} bars @param {number} first @param {number} last @returns {T[]} */
export const barsFrom = (bars, first, last) => bars.slice(barIndex(bars, first), barIndex(bars, last) + 1);
