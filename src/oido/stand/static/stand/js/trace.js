/** What was played, drawn on the music: where each key was struck, and what was right or wrong of it. */

const SVG = "http://www.w3.org/2000/svg";

/** Signs at a key's place, as paths from its middle. */
const SIGNS = {
  played: (/** @type {number} */ x, /** @type {number} */ y) => `M${x - 4.5} ${y}l4.5 -4.5l4.5 4.5l-4.5 4.5z`,
  right: (/** @type {number} */ x, /** @type {number} */ y) => `M${x - 4.5} ${y}l3.5 4l6 -8`,
  wrong: (/** @type {number} */ x, /** @type {number} */ y) => `M${x - 4} ${y - 4}l8 8m0 -8l-8 8`,
};

/**
 * The view whose music it is drawn on.
 * @typedef {{
 *   place: HTMLElement, rows: {element: SVGGElement, places: Record<string, number>}[],
 *   cursor: import("../../common/js/cursor.js").Cursor | null, barAt(second: number): PlainBar, rowOf(bar: number): number,
 * }} View
 */

export class Trace {
  /** @param {View} view */
  constructor(view) {
    this.view = view;
  }

  /** A sign where a key stands in the drawing at a moment; none where it is not drawn.
   * @param {number} pitch @param {number} second @param {keyof typeof SIGNS} sign */
  note(pitch, second, sign = "played") {
    const { view } = this;
    const bar = view.barAt(second);
    const place = view.cursor?.placeOf(bar.number);
    const row = view.rows[view.rowOf(bar.number)];
    const y = row?.places[pitch];
    if (!place || y === undefined) return;
    const x = place.x + Math.max(-0.1, (second - bar.start) / (bar.end - bar.start)) * place.width;
    const path = document.createElementNS(SVG, "path");
    path.setAttribute("d", SIGNS[sign](x, y));
    path.setAttribute("class", `is-${sign}`);
    row.element.querySelector("[data-trace]")?.append(path);
  }

  /** The groups of signs, one in each row. */
  get groups() {
    return this.view.place.querySelectorAll("[data-trace]");
  }

  /** A new round: the last one pales, the one before goes. */
  age() {
    for (const group of this.groups) {
      for (const sign of [...group.children]) {
        if (sign.classList.contains("is-before")) sign.remove();
        else sign.classList.add("is-before");
      }
    }
  }

  clear() {
    for (const group of this.groups) group.replaceChildren();
  }
}
