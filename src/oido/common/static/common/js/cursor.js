/**
 * The line that moves over the Page view, and the words that say where it is.
 */
export class Cursor {
  /** @param {Element} page the drawing @param {PlainBar[]} bars */
  constructor(page, bars) {
    this.page = page;
    this.bars = bars;
    /** @type {Element | null} the line of the row in which it is now */
    this.line = null;
    /** @type {{element: Element, line: Element, x: number, y: number, width: number, height: number} | null} of the bar in which it is */
    this.place = null;
    this.bar = 0;
  }

  /** Where a bar is drawn; rows may have come, or been drawn anew, since the last time.
   * @param {number} number */
  placeOf(number) {
    if (this.place?.element.isConnected && number === this.bar) return this.place;
    // The whole page may have been drawn anew.
    if (!this.page.isConnected) this.page = document.querySelector("[data-page-view]") ?? this.page;
    const element = this.page.querySelector(`[data-bar="${number}"]`);
    const line = element?.closest("[data-row]")?.querySelector("[data-cursor]");
    if (!element || !line) return null;
    const [x, y, width, height] = ["x", "y", "width", "height"].map((name) => Number(element.getAttribute(name)));
    return { element, line, x, y, width, height };
  }

  /** @param {number} second from bar 1 */
  show(second) {
    const bar = this.bars.find((b) => second < b.end) ?? this.bars[this.bars.length - 1];
    const place = this.placeOf(bar.number);
    if (!place) return;
    this.place = place;
    if (this.line !== place.line) this.line?.setAttribute("d", "");
    this.line = place.line;
    const share = Math.max(-0.1, (second - bar.start) / (bar.end - bar.start));
    this.line.setAttribute("d", `M${place.x + share * place.width} ${place.y}v${place.height}`);
    if (bar.number !== this.bar) {
      this.bar = bar.number;
      const { element } = place;
      const box = element.getBoundingClientRect();
      if (box.bottom > window.innerHeight - 90 || box.top < 0) {
        const calm = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
        element.scrollIntoView({ block: "center", behavior: calm ? "auto" : "smooth" });
      }
    }
  }

  hide() {
    this.line?.setAttribute("d", "");
    this.bar = 0;
  }
}
