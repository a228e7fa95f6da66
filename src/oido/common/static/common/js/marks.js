/** Marks that are dropped while something plays: each a place and a name, kept in this browser for its page. */

const LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZ";
const MAX_MARKS = 50;
/** A mark is dropped a little after what it is about was heard. */
const LATE_S = 0.25;

/** @typedef {{second: number, name: string, bar: number, beat: number}} Mark */

/** Bar and beat of a second of the music. @param {PlainBar[]} bars @param {number} second */
export function placeOf(bars, second) {
  const bar = bars.findLast((one) => one.start <= second) ?? bars[0];
  return { bar: bar.number, beat: Math.max(1, bar.beats.findLastIndex((beat) => beat <= second) + 1) };
}

export class Marks {
  /**
   * @param {HTMLElement} place where they are listed @param {{bars: () => PlainBar[], say: (words: string) => void}} page
   * @param {string} key under which they are kept
   */
  constructor(place, page, key = `oido-marks${globalThis.location?.pathname ?? ""}`) {
    this.place = place;
    this.page = page;
    this.key = key;
    /** @type {Mark[]} in order of time */
    this.marks = JSON.parse(globalThis.localStorage?.getItem(key) ?? "[]");
    place.addEventListener("click", (event) => this.click(/** @type {Element} */ (event.target)));
    place.addEventListener("change", (event) => this.rename(/** @type {HTMLInputElement} */ (event.target)));
    this.show();
  }

  /** Its place, which it knows itself: a page that has only been opened does not know its bars yet. @param {Mark} mark */
  wordsOf(mark) {
    return interpolate(gettext("bar %(bar)s, beat %(beat)s"), mark, true);
  }

  /** Here, where the music is. @param {number} second */
  drop(second) {
    if (this.marks.length === MAX_MARKS) return this.page.say(interpolate(gettext("There are already %(n)s marks. Remove some first."), { n: MAX_MARKS }, true));
    const at = Math.max(0, second - LATE_S);
    const name = [...LETTERS].find((letter) => !this.marks.some((mark) => mark.name === letter)) ?? String(this.marks.length + 1);
    const mark = { second: Math.round(at * 1000) / 1000, name, ...placeOf(this.page.bars(), at) };
    this.marks = [...this.marks, mark].sort((a, b) => a.second - b.second);
    this.keep();
    this.page.say(interpolate(gettext("Mark %(name)s: %(place)s."), { name, place: this.wordsOf(mark) }, true));
  }

  /** The next mark behind a second, or the first of all. @param {number} second @returns {Mark | undefined} */
  after(second) {
    return this.marks.find((mark) => mark.second > second + LATE_S) ?? this.marks[0];
  }

  /** @param {Element} target */
  click(target) {
    const remove = target.closest("[data-remove-mark]");
    if (remove) this.marks = this.marks.filter((_, k) => k !== Number(remove.getAttribute("data-remove-mark")));
    else if (target.closest("[data-clear-marks]")) this.marks = [];
    else return;
    this.keep();
  }

  /** @param {HTMLInputElement} input */
  rename(input) {
    const mark = this.marks[Number(input.dataset.nameMark)];
    if (!mark) return;
    mark.name = input.value.trim() || mark.name;
    this.keep();
  }

  keep() {
    globalThis.localStorage?.setItem(this.key, JSON.stringify(this.marks));
    this.show();
  }

  show() {
    this.place.hidden = this.marks.length === 0;
    const list = /** @type {HTMLElement} */ (this.place.querySelector("[data-mark-list]"));
    list.replaceChildren(...this.marks.map((mark, k) => this.row(mark, k)));
  }

  /** @param {Mark} mark @param {number} k */
  row(mark, k) {
    const row = document.createElement("li");
    const name = Object.assign(document.createElement("input"), { type: "text", value: mark.name, maxLength: 40 });
    name.dataset.nameMark = String(k);
    name.setAttribute("aria-label", interpolate(gettext("Name of mark %(name)s"), mark, true));
    const hear = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: this.wordsOf(mark) });
    hear.dataset.hearFrom = String(mark.second);
    hear.setAttribute("aria-label", interpolate(gettext("Play from mark %(name)s, %(place)s"), { name: mark.name, place: this.wordsOf(mark) }, true));
    const remove = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: pgettext("button", "Remove") });
    remove.dataset.removeMark = String(k);
    remove.setAttribute("aria-label", interpolate(gettext("Remove mark %(name)s"), mark, true));
    row.append(name, " ", hear, " ", remove);
    return row;
  }
}
