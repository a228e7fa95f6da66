/** The grid of steps: cells turned by mouse and by keyboard; shown at once, done by the server. */
import { fieldValue, post, stateNow } from "./ask.js";

/** Strengths of an accent, and of a soft note, as beats have them. */
const ACCENT = "112";
const SOFT = "48";

const place = () => document.getElementById("grid");
/** @type {{tick: string, pitch: string} | null} where the keyboard is, over another look at the grid */
let here = null;
/** Questions that are still under way. */
let asked = 0;
/** The state of the part that the grid shows. */
let shown = "";

/** The grid of what there is now: something else was done, or a cell was turned that the server left as it was. */
function anew() {
  shown = stateNow();
  document.getElementById("grid-form")?.dispatchEvent(new Event("change"));
}

/** @param {HTMLElement} cell */
function reach(cell) {
  for (const other of place()?.querySelectorAll("[tabindex='0']") ?? []) other.setAttribute("tabindex", "-1");
  cell.tabIndex = 0;
  here = { tick: cell.dataset.tick ?? "", pitch: cell.dataset.pitch ?? "" };
}

/** @param {HTMLElement} cell @param {Record<string, string>} values */
function ask(cell, values) {
  reach(cell);
  const form = ["first_bar", "last_bar", "step", "value", "velocity", "hand", "low", "high"];
  const fields = Object.fromEntries(form.map((name) => [name, fieldValue(`grid-${name}`)]));
  const { tick = "", pitch = "" } = cell.dataset;
  // A kit has no lengths: its form has no such field.
  asked += 1;
  const all = { how: "turn", steps: "0", ...fields, value: fields.value || fields.step, tick, pitch, ...values };
  const answered = (/** @type {boolean} */ isDone) => {
    asked -= 1;
    if (!isDone) anew();
    else if (asked === 0) takeNews();
  };
  post("do/cell", all, { target: "#grid-news" }).then(answered, () => answered(false));
}

/** What the server made of the cells, put into the grid that is worked on: cells stay, so that the keyboard
 * stays where it is, however quickly it goes on. */
function takeNews() {
  const news = document.getElementById("grid-news");
  const cells = /** @type {HTMLElement[]} */ ([...(news?.querySelectorAll("td") ?? [])]);
  shown = stateNow();
  if (!news || cells.length !== place()?.querySelectorAll("td").length) return;
  for (const cell of cells) {
    const { tick, pitch, weight } = cell.dataset;
    const own = /** @type {HTMLElement | null} */ (place()?.querySelector(`td[data-tick="${tick}"][data-pitch="${pitch}"]`));
    if (!own) continue;
    own.className = cell.className;
    if (weight) own.dataset.weight = weight;
    else delete own.dataset.weight;
    for (const name of ["aria-selected", "aria-label"]) own.setAttribute(name, cell.getAttribute(name) ?? "");
  }
  news.replaceChildren();
}

/** @param {HTMLElement} cell */
function turn(cell) {
  const isFull = cell.classList.contains("is-begins");
  cell.classList.toggle("is-begins", !isFull);
  cell.classList.toggle("is-empty", isFull);
  ask(cell, { how: "turn" });
}

/** @param {HTMLElement} cell @param {number} across @param {number} down */
function neighbour(cell, across, down) {
  const row = /** @type {HTMLTableRowElement} */ (cell.parentElement);
  const at = [...row.children].indexOf(cell) + across;
  const rows = [...(row.parentElement?.children ?? [])];
  const next = rows[rows.indexOf(row) + down]?.children[at];
  return next instanceof HTMLElement && next.dataset.tick ? next : cell;
}

document.addEventListener("click", (event) => {
  const cell = /** @type {Element} */ (event.target).closest("#grid td");
  if (!(cell instanceof HTMLElement)) return;
  cell.focus();
  turn(cell);
});

document.addEventListener("keydown", (event) => {
  const cell = document.activeElement;
  if (!(cell instanceof HTMLElement) || !cell.matches("#grid td") || event.ctrlKey || event.metaKey) return;
  /** @type {Record<string, () => void>} */
  const keys = {
    ArrowRight: () => (event.shiftKey ? ask(cell, { how: "stretch", steps: "1" }) : neighbour(cell, 1, 0).focus()),
    ArrowLeft: () => (event.shiftKey ? ask(cell, { how: "stretch", steps: "-1" }) : neighbour(cell, -1, 0).focus()),
    ArrowUp: () => neighbour(cell, 0, -1).focus(),
    ArrowDown: () => neighbour(cell, 0, 1).focus(),
    Enter: () => turn(cell),
    KeyA: () => ask(cell, { how: "weigh", velocity: ACCENT }),
    KeyS: () => ask(cell, { how: "weigh", velocity: SOFT }),
    KeyN: () => ask(cell, { how: "weigh" }),
  };
  const act = keys[event.key] ?? keys[event.code];
  if (!act) return;
  event.preventDefault();
  event.stopPropagation();
  act();
});

document.addEventListener("focusin", (event) => {
  const cell = /** @type {Element} */ (event.target).closest?.("#grid td");
  if (cell instanceof HTMLElement) reach(cell);
});

document.body.addEventListener("htmx:afterSettle", (event) => {
  const grid = place();
  if (/** @type {CustomEvent} */ (event).detail.target?.id === "grid") shown = stateNow();
  else if (asked === 0 && shown !== stateNow() && grid?.checkVisibility() && grid.querySelector("td")) anew();
  if (!grid || grid.querySelector("[tabindex='0']")) return;
  const find = (/** @type {string} */ what) => /** @type {HTMLElement | null} */ (grid.querySelector(what));
  const was = here && find(`td[data-tick="${here.tick}"][data-pitch="${here.pitch}"]`);
  const cell = was ?? find("td");
  if (!cell) return;
  const hadFocus = document.activeElement === document.body;
  cell.tabIndex = 0;
  if (was && hadFocus) cell.focus();
});
