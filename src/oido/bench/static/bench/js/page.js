/** The rows of music on the Bench: which note is where, which are picked. */

/** @returns {HTMLElement} */
export const music = () => /** @type {HTMLElement} */ (document.getElementById("bench-page"));

/** Notes that are picked, by number. */
export const picked = () => new Set((document.getElementById("pick")?.dataset.picked ?? "").split(" ").filter(Boolean));

export function showPicked() {
  const notes = picked();
  for (const note of music().querySelectorAll(".target")) {
    note.classList.toggle("is-picked", notes.has(note.id.slice(1)));
  }
}

/** Rows that stayed as they were may hold other notes by number: those before them became more or fewer. */
export function numberNotes() {
  const starts = JSON.parse(document.getElementById("note-starts")?.textContent ?? "[]");
  for (const row of music().querySelectorAll("[data-first]")) {
    const element = /** @type {HTMLElement} */ (row);
    const first = starts[Number(element.id.slice(4))];
    if (first === undefined || String(first) === element.dataset.first) continue;
    element.dataset.first = String(first);
    element.querySelectorAll(".target").forEach((note, k) => (note.id = `t${first + k}`));
  }
}

/** The note under the pointer: the places of bars, which play when clicked, lie over the notes.
 * @param {MouseEvent} event @returns {SVGGraphicsElement | undefined} */
export function noteAt(event) {
  const found = document.elementsFromPoint(event.clientX, event.clientY).find((e) => e.classList.contains("target"));
  return /** @type {SVGGraphicsElement | undefined} */ (found);
}

/** A place in the drawing of a row.
 * @param {SVGSVGElement} row @param {MouseEvent} event */
export function placeIn(row, event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(row.getScreenCTM()?.inverse());
}

/** Ticks to a px of a row's drawing, read off its first bar.
 * @param {Element} row */
export function ticksPerPx(row) {
  const bar = row.querySelector(".bar-place");
  if (!bar) return 1;
  const read = (/** @type {string} */ name) => Number(bar.getAttribute(name));
  return (read("data-end-tick") - read("data-start-tick")) / read("width");
}
