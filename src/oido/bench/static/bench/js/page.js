/** The rows of music on the Bench: which note is where, which are picked, where one writes next. */
import { numberOf, targetId } from "../../common/js/note_place.js";
import { newValue, picked } from "./ask.js";
import { isLooking } from "./looking.js";

/** @returns {HTMLElement} */
export const music = () => /** @type {HTMLElement} */ (document.getElementById("bench-page"));

export const hasLanes = () => "hasLanes" in music().dataset;

export const pickedNotes = () => /** @type {SVGGraphicsElement[]} */ ([...music().querySelectorAll(".target.is-picked")]);

export function showPicked() {
  // As it would be, other notes may be picked, under other numbers.
  const asLooked = document.querySelector("[data-would-pick]")?.getAttribute("data-would-pick")?.split(" ");
  const notes = isLooking() && asLooked ? new Set(asLooked) : picked();
  for (const note of music().querySelectorAll(".target")) {
    note.classList.toggle("is-picked", notes.has(numberOf(note)));
  }
}

/** Rows that stayed as they were may hold other notes by number: those before them became more or fewer. */
export function numberNotes() {
  const starts = JSON.parse(document.getElementById(isLooking() ? "look-starts" : "note-starts")?.textContent ?? "[]");
  for (const row of music().querySelectorAll("[data-first]")) {
    const element = /** @type {HTMLElement} */ (row);
    const first = starts[Number(element.id.slice(4))];
    if (first === undefined || String(first) === element.dataset.first) continue;
    element.dataset.first = String(first);
    element.querySelectorAll(".target").forEach((note, k) => (note.id = targetId(first + k)));
  }
}

/** The note under the pointer.
 * @param {MouseEvent} event @returns {SVGGraphicsElement | undefined} */
export function noteAt(event) {
  const element = document.elementsFromPoint(event.clientX, event.clientY).find((e) => e.classList.contains("target"));
  return /** @type {SVGGraphicsElement | undefined} */ (element);
}

/** The row under the pointer, as it is drawn now.
 * @param {MouseEvent} event @returns {SVGSVGElement | null} */
export function rowAt(event) {
  const element = document.elementFromPoint(event.clientX, event.clientY)?.closest("#bench-page svg");
  return element instanceof SVGSVGElement ? element : null;
}

/** A place in the drawing of a row.
 * @param {SVGSVGElement} row @param {MouseEvent} event */
export function placeIn(row, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(row.getScreenCTM()?.inverse());
}

/** @typedef {{element: Element, number: number, start: number, end: number, beats: number, x: number, width: number}} BarPlace */

/** @param {ParentNode} [within] @returns {BarPlace[]} */
export function barPlaces(within = music()) {
  return [...within.querySelectorAll(".bar-place")].map((element) => {
    const read = (/** @type {string} */ name) => Number(element.getAttribute(name));
    return { element, number: read("data-bar"), start: read("data-start-tick"), end: read("data-end-tick"), beats: read("data-beat-count"), x: read("x"), width: read("width") };
  });
}

/** Ticks to a px of a row's drawing, read off its first bar.
 * @param {Element} row */
export function ticksPerPx(row) {
  const [bar] = barPlaces(row);
  return bar ? (bar.end - bar.start) / bar.width : 1;
}

/** The tick at a place of a row, on the lines of the new notes' value; null before its first bar.
 * @param {Element} row @param {number} x */
export function tickAt(row, x) {
  const bar = barPlaces(row).findLast((each) => each.x <= x);
  if (!bar) return null;
  const into = ((x - bar.x) / bar.width) * (bar.end - bar.start);
  return bar.start + Math.min(Math.round(into / newValue()) * newValue(), bar.end - bar.start - 1);
}

/** @type {number | null} where one writes next */
let place = null;

/** Where one writes next: where that was set; else at the first note that is picked, drawn or not; else at the beginning. */
export function placeTick() {
  if (place !== null) return place;
  const [note] = pickedNotes();
  const row = note?.closest("svg");
  return (row && tickAt(row, note.getBBox().x)) ?? Number(document.getElementById("pick")?.dataset.tick ?? 0);
}

/** @param {number | null} tick */
export function setPlace(tick) {
  place = tick;
  showPlace();
}

/** @param {1 | -1} way */
export function movePlace(way) {
  const last = barPlaces().at(-1);
  const next = placeTick() + way * newValue();
  if (last && next >= 0 && next < last.end) setPlace(next);
}

/** The bar in which one writes next. */
export const barOfPlace = () => barPlaces().find((bar) => bar.start <= placeTick() && placeTick() < bar.end);

/** Drawn in the music, and put in words. */
export function showPlace() {
  for (const old of document.querySelectorAll(".place-mark")) old.remove();
  const bar = place === null ? undefined : barOfPlace();
  if (!bar || place === null) return;
  const x = bar.x + ((place - bar.start) / (bar.end - bar.start)) * bar.width;
  const box = /** @type {SVGGraphicsElement} */ (bar.element).getBBox();
  const mark = document.createElementNS("http://www.w3.org/2000/svg", "path");
  mark.setAttribute("class", "place-mark");
  mark.setAttribute("d", `M${x - 5} ${box.y - 6}h10l-5 6V${box.y + box.height}`);
  bar.element.parentNode?.append(mark);
  const placeText = document.getElementById("place-said");
  const beats = Math.round((100 * bar.beats * (place - bar.start)) / (bar.end - bar.start)) / 100 + 1;
  if (placeText) placeText.textContent = interpolate(gettext("The cursor is at bar %(bar)s, beat %(beat)s."), { bar: bar.number, beat: beats }, true);
}
