/** Rows whose notes come later: asked for as soon as nothing else is, those nearest to the view first. */
import { ask } from "../../common/js/signed_out.js";
import { pageNow, quiet, stateNow, turn, work } from "./ask.js";
import { isLooking } from "./looking.js";
import { music } from "./page.js";

const AT_ONCE = 6;
/** So far outside of the window a row counts as seen. */
const NEAR_PX = 40;

/** @param {Element} row */
function farness(row) {
  const { top, bottom } = row.getBoundingClientRect();
  return Math.max(top - window.innerHeight, -bottom, 0);
}

const number = (/** @type {Element} */ row) => row.id.slice(4);
const lateRows = () => [...music().querySelectorAll("[data-late]")];

/** The first and the last row in view, for the server; what is outside of it may come later. */
function seenRows() {
  const rows = [...music().querySelectorAll(".bench-row")].filter((row) => farness(row) < NEAR_PX);
  const [first, last] = [rows[0], rows.at(-1)];
  return first && last ? `${number(first)}-${number(last)}` : "0-0";
}

/** Does a row whose notes are not there come into view? */
export const isBareInView = () => lateRows().some((row) => farness(row) < NEAR_PX);

let isFilling = false;

/** Goes on until all rows are there. What is only looked at is drawn as far as it is looked at. */
async function fill() {
  if (isFilling) return;
  isFilling = true;
  try {
    do await quiet();
    while (!isLooking() && lateRows().length && (await fillNearest()));
  } finally {
    isFilling = false;
  }
}

/** An act never waits for rows: those that come when something has been done since are asked for again.
 * @returns {Promise<boolean>} is it of use to go on? */
async function fillNearest() {
  const rows = lateRows().sort((a, b) => farness(a) - farness(b)).slice(0, AT_ONCE);
  const wanted = `${work().dataset.url}rows/?state=${stateNow()}&rows=${rows.map(number).join(",")}`;
  const before = turn();
  const response = await ask(wanted, { headers: { "HX-Request": "true", ...pageNow() } }).catch(() => null);
  if (!response?.ok) return false;
  const text = await response.text();
  if (before !== turn() || isLooking()) return true;
  // Where the part is another one by now, all is sent, and what is picked.
  htmx.swap("#pick", text, { swapStyle: text.includes('id="pick"') ? "outerHTML" : "none", swapDelay: 0, settleDelay: 0 });
  return !rows.some((row) => row.isConnected);
}

document.body.addEventListener("htmx:configRequest", (event) => {
  /** @type {CustomEvent} */ (event).detail.headers["Rows-Seen"] = seenRows();
});
/** A row that comes later keeps its place as high as it was: what is below does not jump. */
document.body.addEventListener("htmx:oobBeforeSwap", (event) => {
  const { target, fragment } = /** @type {CustomEvent} */ (event).detail;
  const row = fragment?.firstElementChild;
  if (!(row instanceof HTMLElement) || !("late" in row.dataset)) return;
  const width = row.querySelector("svg")?.viewBox.baseVal.width ?? 0;
  row.querySelector("svg")?.setAttribute("viewBox", `0 0 ${width} ${(width * target.offsetHeight) / target.offsetWidth}`);
});
document.body.addEventListener("htmx:afterSettle", fill);
document.addEventListener("page-as-it-is", fill);
fill();
