/** Lines of the part as text, each known by the number of its bar. */

/** @param {string} line @returns {string} the bar that it is of; empty where it does not say */
export const barOf = (line) => line.match(/^\s*(\d+)/)?.[1] ?? "";

/** @param {string} line @returns {boolean} does it go on with a bar that a line before has begun? */
const goesOn = (line) => /^\s*\d+\.\./.test(line);

/** @param {string} text @returns {[string, string][]} each bar with all of its lines; a line without a number by itself */
function bars(text) {
  /** @type {[string, string][]} */
  const all = [];
  for (const line of text.split("\n")) {
    const last = all.at(-1);
    if (last && goesOn(line) && last[0] === barOf(line)) last[1] += `\n${line}`;
    else all.push([barOf(line), line]);
  }
  return all;
}

/**
 * What somebody has written into a text that is another one by now: bars that were left alone are those of now.
 * @param {string} own what is written @param {string} was what it was written into @param {string} now
 */
export function rewritten(own, was, now) {
  const [before, after, written] = [new Map(bars(was)), new Map(bars(now)), bars(own)];
  const lines = written.flatMap(([bar, text]) => {
    if (!bar || before.get(bar) !== text) return [text];
    return after.has(bar) ? [after.get(bar)] : [];
  });
  const kept = new Set(written.map(([bar]) => bar));
  const come = [...after].filter(([bar]) => bar && !before.has(bar) && !kept.has(bar));
  return [...lines, ...come.map(([, text]) => text)].join("\n");
}
