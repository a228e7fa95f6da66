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
    /** @type {Map<number, {x: number, y: number, width: number, height: number, line: Element | null}>} */
    this.places = new Map();
    for (const place of page.querySelectorAll("[data-bar]")) {
      const read = (/** @type {string} */ name) => Number(place.getAttribute(name));
      this.places.set(read("data-bar"), { x: read("x"), y: read("y"), width: read("width"), height: read("height"), line: place.closest("[data-row]")?.querySelector("[data-cursor]") ?? null });
    }
    this.bar = 0;
  }

  /** @param {number} second from bar 1 */
  show(second) {
    const bar = this.bars.find((b) => second < b.end) ?? this.bars[this.bars.length - 1];
    const place = this.places.get(bar.number);
    if (!place?.line) return;
    if (this.line !== place.line) this.line?.setAttribute("d", "");
    this.line = place.line;
    const share = Math.max(-0.1, (second - bar.start) / (bar.end - bar.start));
    this.line.setAttribute("d", `M${place.x + share * place.width} ${place.y}v${place.height}`);
    if (bar.number !== this.bar) {
      this.bar = bar.number;
      const element = this.page.querySelector(`[data-bar="${bar.number}"]`);
      const box = element?.getBoundingClientRect();
      if (box && (box.bottom > window.innerHeight - 90 || box.top < 0)) {
        const calm = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
        element?.scrollIntoView({ block: "center", behavior: calm ? "auto" : "smooth" });
      }
    }
  }

  hide() {
    this.line?.setAttribute("d", "");
    this.bar = 0;
  }
}
