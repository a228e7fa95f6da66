/** The music on the page, drawn anew for a window that has become wider or narrower: notes keep their size. */

/** Of the width: so much is scaled and not drawn anew. */
const NEAR = 0.08;
const SETTLED_MS = 150;
/** Units of a drawing on a computer; wider it does not get (`oido/common/screen.py`). */
const PAGE_WIDTH = 860;

export class Drawing {
  /** @param {HTMLElement} place @param {{url: string, key: string, onDrawn(): void}} needs */
  constructor(place, needs) {
    this.place = place;
    this.needs = needs;
    this.timer = 0;
    window.addEventListener("resize", () => {
      window.clearTimeout(this.timer);
      this.timer = window.setTimeout(() => this.fit(), SETTLED_MS);
    });
  }

  /** Units across of the drawing that is there. */
  get units() {
    return /** @type {SVGSVGElement | null} */ (this.place.querySelector("svg"))?.viewBox.baseVal.width ?? 0;
  }

  /** Fetch the drawing for this window, if it would be another. Without the network the one that is there is scaled. */
  async fit() {
    const style = getComputedStyle(this.place);
    const room = this.place.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight);
    const wanted = Math.round(Math.min(PAGE_WIDTH, room));
    // Nothing has a width while the playing view is open. On a computer the music beside the ladder is scaled to its column.
    if (room <= 0 || this.units === 0 || Math.abs(wanted - this.units) <= NEAR * this.units) return;
    const response = await fetch(`${this.needs.url}?page&width=${wanted}&key=${this.needs.key}`).catch(() => null);
    if (!response?.ok) return;
    this.place.innerHTML = await response.text();
    this.needs.onDrawn();
  }
}
