/** Copying notes: which they are, of which state of which part; they are put back from there, with all that they are. */
import { picked, post, quiet, stateNow, work } from "./ask.js";
import { placeTick } from "./page.js";

const KEPT = "oido-copied";

/** @typedef {{url: string, state: string, notes: string}} Copied */

/** @param {string} url @returns {string} the exercise of a Bench's address */
const exerciseOf = (url) => url.match(/(\d+)\/$/)?.[1] ?? "";

/** @type {Promise<boolean>} the last copying: what is pasted at once after it waits for it */
let copying = Promise.resolve(false);

/** @returns {Promise<boolean>} was there anything? */
export function copy() {
  copying = copied();
  return copying;
}

async function copied() {
  await quiet();
  const notes = [...picked()].join(" ");
  if (!notes) return false;
  sessionStorage.setItem(KEPT, JSON.stringify(/** @type {Copied} */ ({ url: work().dataset.url, state: stateNow(), notes })));
  return true;
}

export async function paste() {
  const tick = String(placeTick());
  await copying;
  const kept = /** @type {Copied | null} */ (JSON.parse(sessionStorage.getItem(KEPT) ?? "null"));
  if (!kept) return;
  const isElsewhere = kept.url !== work().dataset.url;
  post("do/paste", { state: kept.state, notes: kept.notes, of: isElsewhere ? exerciseOf(kept.url) : "", tick });
}
