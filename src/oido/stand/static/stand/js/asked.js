/** What the address asks to be practised: bars, hand or lanes, a share of the tempo, a rung of the ladder. */

/**
 * @param {StandData} data @param {string} search
 * @returns {{from: number, to: number, mine: string[], bpm: number, rung: number} | null}
 */
export function askedFor(data, search) {
  const query = new URLSearchParams(search);
  const number = (/** @type {string} */ name, /** @type {number} */ otherwise) => Number(query.get(name)) || otherwise;
  if (!query.has("from")) return null;
  const from = number("from", 1);
  return {
    from,
    to: number("to", from),
    mine: (query.get("of") ?? "").split(",").filter(Boolean),
    bpm: (data.bpm * number("percent", 100)) / 100,
    rung: number("rung", 0),
  };
}
