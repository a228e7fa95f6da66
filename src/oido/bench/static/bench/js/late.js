/** Rows whose notes come later: asked for as soon as nothing else is, those nearest to the view first. */
import { quietly, work } from "./ask.js";
import { isLooking } from "./looking.js";
import { music } from "./page.js";

const AT_ONCE = 6;
/** So far outside of the window a row counts as seen. */
const NEAR_PX = 240;

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

/** Goes on until all rows are there; acts go between. What is only looked at is drawn as far as it is looked at. */
async function fill() {
  if (isFilling) return;
  isFilling = true;
  try {
    for (let left = Infinity; !isLooking() && lateRows().length && lateRows().length < left; ) {
      left = lateRows().length;
      await quietly(rowsNearest);
    }
  } finally {
    isFilling = false;
  }
}

/** What is asked for now, when its turn has come. */
async function rowsNearest() {
  if (isLooking()) return;
  const rows = lateRows().sort((a, b) => farness(a) - farness(b)).slice(0, AT_ONCE).map(number).join(",");
  const state = document.getElementById("bench-bar")?.dataset.state ?? "";
  if (rows) await htmx.ajax("GET", `${work().dataset.url}rows/`, { target: "#pick", swap: "none", values: { state, rows } });
}

document.body.addEventListener("htmx:configRequest", (event) => {
  /** @type {CustomEvent} */ (event).detail.headers["Rows-Seen"] = seenRows();
});
/** A row that comes later keeps its place as high as it was: what is below does not jump. */
document.body.addEventListener("htmx:oobBeforeSwap", (event) => {
  const { target, fragment } = /** @type {CustomEvent} */ (event).detail;
  const row = fragment?.firstElementChild;
  if (row instanceof HTMLElement && "late" in row.dataset) row.style.height = `${target.offsetHeight}px`;
});
document.body.addEventListener("htmx:afterSettle", fill);
document.addEventListener("page-as-it-is", fill);
fill();
