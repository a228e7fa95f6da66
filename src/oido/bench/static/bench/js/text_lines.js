/** Lines of the part as text, each known by the number of its bar. */

/** @param {string} line @returns {string} the bar that it is of; empty where it does not say */
export const barOf = (line) => line.match(/^\s*(\d+)/)?.[1] ?? "";

/** @param {string} text */
const byBar = (text) => new Map(text.split("\n").map((line) => [barOf(line), line]));

/**
 * What somebody has written into a text that is another one by now: lines that were left alone are those of now.
 * @param {string} own what is written @param {string} was what it was written into @param {string} now
 */
export function rewritten(own, was, now) {
  const [before, after] = [byBar(was), byBar(now)];
  const lines = own.split("\n").flatMap((line) => {
    const bar = barOf(line);
    if (!bar || before.get(bar) !== line) return [line];
    return after.has(bar) ? [after.get(bar)] : [];
  });
  const come = [...after].filter(([bar]) => bar && !before.has(bar) && !byBar(own).has(bar));
  return [...lines, ...come.map(([, line]) => line)].join("\n");
}
