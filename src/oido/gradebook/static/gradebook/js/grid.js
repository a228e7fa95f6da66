/** The grid of marks: arrow keys move, typing opens a cell, Enter keeps what was typed and goes down. */
import { ask } from "../../common/js/signed_out.js";

const grid = /** @type {HTMLTableElement | null} */ (document.querySelector("[data-grid]"));
const status = /** @type {HTMLElement | null} */ (document.querySelector("[data-grid-said]"));
const STEPS = /** @type {Record<string, [number, number]>} */ ({ ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] });

/** Cells that can be typed into, row by row. @returns {HTMLElement[][]} */
const cells = () =>
  [...(grid?.querySelectorAll("tr") ?? [])]
    .map((row) => /** @type {HTMLElement[]} */ ([...row.querySelectorAll("[data-cell]")]))
    .filter((row) => row.length > 0);
const link = (/** @type {HTMLElement} */ cell) => /** @type {HTMLElement | null} */ (cell.querySelector("a"));

/** What stands in a cell, as it would be typed. @param {HTMLElement} cell */
const typedIn = (cell) => cell.querySelector("[data-typed]")?.textContent?.trim().replace("·", "") ?? "";

/** The cell so many rows and columns away, as far as there is one.
 * @param {HTMLElement} cell @param {number} down @param {number} right */
function beside(cell, down, right) {
  const rows = cells();
  const row = rows.findIndex((each) => each.includes(cell));
  const column = rows[row]?.indexOf(cell) ?? 0;
  return rows[row + down]?.[column + right] ?? null;
}

/** @param {HTMLElement | null} cell */
function focus(cell) {
  if (cell) link(cell)?.focus();
}

/** Open a cell to be typed into. @param {HTMLElement} cell @param {string | null} first what was typed; null to change what is there */
function open(cell, first) {
  const shown = link(cell);
  if (!shown || cell.querySelector("input")) return;
  const input = document.createElement("input");
  input.value = first ?? typedIn(cell);
  input.maxLength = 12;
  input.setAttribute("aria-label", shown.getAttribute("aria-label") ?? "");
  shown.hidden = true;
  cell.append(input);
  input.focus();
  if (first === null) input.select();
  let isOver = false;
  const close = () => {
    isOver = true;
    input.remove();
    shown.hidden = false;
    cell.classList.remove("is-wrong");
  };
  const keep = async (/** @type {HTMLElement | null} */ next) => {
    if (isOver) return;
    if (!(await send(cell, input.value))) return void cell.classList.add("is-wrong");
    close();
    focus(next ?? cell);
  };
  input.addEventListener("keydown", (event) => {
    if (event.key === "Enter") keep(beside(cell, event.shiftKey ? -1 : 1, 0));
    else if (event.key === "Tab") keep(beside(cell, 0, event.shiftKey ? -1 : 1));
    else if (event.key === "Escape") {
      close();
      focus(cell);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  });
  input.addEventListener("blur", () => keep(null));
}

/** Keep what was typed; false where it is no mark. @param {HTMLElement} cell @param {string} typed */
async function send(cell, typed) {
  const body = new FormData();
  body.set("typed", typed);
  const response = await ask(cell.dataset.cell ?? "", { method: "POST", body, headers: { Accept: "application/json" } });
  const answer = await response.json().catch(() => null);
  if (!response.ok || !answer) {
    if (status) status.textContent = answer?.errors?.typed?.[0]?.message ?? gettext("This could not be saved. Try again.");
    return false;
  }
  const place = cell.querySelector("[data-typed]");
  if (place) place.textContent = answer.shown;
  // What is entered by hand neither waits nor is hidden.
  cell.querySelector("small")?.remove();
  cell.className = `is-${answer.state}${answer.isEntered ? " is-entered" : ""}`;
  const means = /** @type {HTMLElement[]} */ ([...(cell.closest("tr")?.querySelectorAll("[data-mean]") ?? [])]);
  for (const mean of means) mean.textContent = answer.means[Number(mean.dataset.mean)] ?? "";
  if (status) status.textContent = interpolate(gettext("Saved. Mean: %(mean)s"), { mean: answer.means[0] || "–" }, true);
  return true;
}

grid?.addEventListener("keydown", (event) => {
  const cell = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-cell]"));
  if (!cell || cell.querySelector("input") || event.ctrlKey || event.metaKey || event.altKey) return;
  const step = STEPS[event.key];
  if (step) focus(beside(cell, ...step));
  else if (event.key === "Delete" || event.key === "Backspace") send(cell, "");
  else if (event.key === "F2") open(cell, null);
  else if (/^[\dem.,-]$/i.test(event.key)) open(cell, event.key);
  else return;
  event.preventDefault();
});
