/**
 * What is seen while somebody plays: the rows now and next, the beat, the bar and what stops it; nothing else of the page.
 *
 * Rows are read downwards, as on paper: the next one is always below the one that is played. They stand still until the last
 * of them is reached, and then that one comes to the top.
 */
import { barIndex, barsFrom, firstBar, lastBar } from "../../common/js/bar_numbers.js";
import { numberOf } from "../../common/js/note_place.js";
import { Cursor } from "../../common/js/cursor.js";
import { Follower } from "./follower.js";
import { ownNotes } from "./how.js";
import { Trace } from "./trace.js";

/** px for a unit of the drawing: a staff is as high as on a music desk, and lower on a telephone. */
const [LARGEST, SMALLEST, WIDTH_FOR_ONE] = [1.6, 1, 800];
/** Drawn smaller than that, a row is not read: the next one is not shown then. */
const MIN_SCALE = 0.6;
const [LARGEST_ALONE, FILLED] = [2.4, 0.85];
/** A pitch whose name is used for all of its class. */
const LOWEST_NAMED = 60;
/** So far back is another round, not a jitter of the clock. */
const ROUND_S = 0.4;
/** Notes this near to one another are one moment. */
const TOGETHER_S = 0.03;
/** The margins beside the music: px at least and at most, and as a share of the window. */
const [MARGIN_PX, MARGIN_SHARE] = [[9.6, 32], 0.02];

/** @typedef {{element: SVGGElement, height: number, places: Record<string, number>}} Row */

/** The line over the music, on the page or in the playing view. */
export class StandCursor extends Cursor {
  /** @param {Element} page @param {PlainBar[]} bars */
  constructor(page, bars) {
    super(page, bars);
    /** @type {PlayingView | null} */
    this.view = null;
  }

  /** @param {number} second */
  show(second) {
    if (this.view?.isOpen) this.view.show(second);
    else super.show(second);
  }

  hide() {
    super.hide();
    this.view?.cursor?.hide();
  }
}

/**
 * What the playing view needs of the page.
 * @typedef {{
 *   root: HTMLElement, data: StandData, find: (what: string) => any, name: (pitch: number) => string, how: import("./how.js").How,
 *   check: import("./input_check.js").InputCheck, instrument: import("./drawn_instrument.js").DrawnInstrument,
 * }} Needs
 */

export class PlayingView {
  /** @param {Needs} needs */
  constructor(needs) {
    this.needs = needs;
    this.beats = /** @type {HTMLElement} */ (needs.find("beats"));
    this.place = /** @type {HTMLElement} */ (needs.find("music-now"));
    this.trace = new Trace(this);
    this.isOpen = false;
    /** The room that there was, and how large music is drawn in it. */
    this.screen = "";
    this.isDrawing = this.isStale = false;
    this.zoom = 1;
    /** What the drawing that is there was made for. */
    this.drawnFor = "";
    /** @type {Row[]} */
    this.rows = [];
    /** Of each bar the row in which it stands. @type {Map<number, number>} */
    this.rowOfBar = new Map();
    /** Of each place from the top the row in it. @type {number[]} */
    this.slots = [];
    /** @type {Cursor | null} */
    this.cursor = null;
    this.second = 0;
    /** @type {Chosen | null} */
    this.chosen = needs.how.chosen;
    /** Notes that the player plays. @type {PlainNote[]} */
    this.ownNotes = [];
    /** @type {Follower | null} where the player is without a click */
    this.follower = null;
    /** @type {StandData["allowedNotes"][number] | undefined} what may be played now */
    this.allowed = undefined;
    /** @type {{pitches: number[], second: number} | null} */
    this.dueNow = null;
    /** Does the music wait for the player, who is followed elsewhere? */
    this.waits = false;
    this.lit = "";
    /** Notes that a rung asks for, by number; null where all are. @type {Set<number> | null} */
    this.asked = null;
    /** The beat that was last shown. */
    this.shownBeat = "";
    /** Units of a place for a row. */
    this.high = 0;
    // What is said below takes room, too.
    new ResizeObserver(() => this.isOpen && this.draw()).observe(this.place);
    // A telephone that is turned has room for other keys.
    let width = window.innerWidth;
    window.addEventListener("resize", () => {
      if (this.isOpen && window.innerWidth !== width) this.drawKeys();
      width = window.innerWidth;
    });
  }

  /** Dim what is not asked for, on the page and here. */
  showAsked() {
    for (const note of document.querySelectorAll(".target[id^=t], .target[data-target]")) {
      const number = Number(note.getAttribute("data-target") ?? numberOf(note));
      note.classList.toggle("is-not-asked", this.asked !== null && !this.asked.has(number));
    }
  }

  /** @param {Chosen} chosen bars and hands that are played @param {boolean} isFree without a click
   * @param {number[] | null} asked notes that a rung asks for */
  open(chosen, isFree = false, asked = null) {
    this.asked = asked && new Set(asked);
    const { root, data } = this.needs;
    this.chosen = chosen;
    this.ownNotes = asked ? asked.map((n) => data.target[n]) : ownNotes(data, chosen);
    this.follower = isFree ? new Follower(data.target, data.bars[barIndex(data.bars, chosen.from)]?.start ?? 0) : null;
    this.isOpen = true;
    this.waits = false;
    this.due([], -1);
    this.dueNow = null;
    // The keys of the page work here without anything in between; whatever is reached with Tab has the focus again.
    /** @type {HTMLElement | null} */ (document.activeElement)?.blur();
    root.classList.add("is-playing");
    root.classList.toggle("has-no-click", isFree);
    this.setAlone(true);
    this.showAsked();
    this.drawKeys();
    this.trace.clear();
    const bar = data.bars[barIndex(data.bars, chosen.from)];
    this.second = bar?.start ?? 0;
    // The beat has its place from the beginning.
    if (bar && !isFree) this.showBeat(bar.start - (bar.end - bar.start), bar);
    this.draw();
  }

  /** The keys or pads that are needed, where they are played on the screen. */
  drawKeys() {
    const { instrument, check } = this.needs;
    instrument.draw(check.currentLayout, this.ownNotes.map(([, , pitch]) => pitch));
    this.lit = "";
    this.allowed = undefined;
  }

  close() {
    if (!this.isOpen) return;
    const { root, instrument, check, find } = this.needs;
    this.isOpen = false;
    this.asked = null;
    this.showAsked();
    root.classList.remove("is-playing", "has-no-click");
    this.setAlone(false);
    this.cursor?.hide();
    this.beats.replaceChildren();
    find("allowed-now").textContent = "";
    this.shownBeat = "";
    instrument.draw(check.currentLayout);
  }

  /** The rest of the page is not there for keys and readers either. @param {boolean} isAlone */
  setAlone(isAlone) {
    for (const element of /** @type {HTMLCollectionOf<HTMLElement>} */ (document.body.children)) {
      if (!element.contains(this.needs.root)) element.inert = isAlone;
    }
  }

  /** The drawing for this screen; for the one that it has become, if it changes on the way. */
  async draw() {
    this.isStale = this.isDrawing;
    if (this.isDrawing) return;
    this.isDrawing = true;
    do {
      this.isStale = false;
      await this.drawOnce();
    } while (this.isStale && this.isOpen);
    this.isDrawing = false;
  }

  /** Fetch the drawing for this screen, if another is there. */
  async drawOnce() {
    const { clientWidth: width, clientHeight: height } = this.place;
    const screen = `${width} ${height}`;
    if (screen !== this.screen) [this.screen, this.zoom] = [screen, Math.min(LARGEST, Math.max(SMALLEST, width / WIDTH_FOR_ONE))];
    await this.fetchDrawing(width);
    // It may have been stopped while the drawing was on its way: there is no room then.
    if (!this.isOpen) return;
    const filled = this.lay();
    // Little music on a large screen is drawn larger: it grows in both directions.
    const larger = Math.min(LARGEST_ALONE, this.zoom * Math.sqrt(FILLED / Math.max(filled, 0.01)));
    if (filled < FILLED / 2 && larger > 1.15 * this.zoom) {
      this.zoom = larger;
      await this.drawOnce();
    }
  }

  /** The drawing for a room so wide. Without the network, or signed out, the one that is there stays: it is drawn to size.
   * @param {number} width */
  async fetchDrawing(width) {
    const { root, data } = this.needs;
    const wanted = `${root.dataset.music}?width=${Math.round(width / this.zoom)}&key=${data.keyText}`;
    if (wanted === this.drawnFor) return;
    const response = await fetch(wanted).catch(() => null);
    if (!response?.ok) return;
    this.put(await response.text());
    this.drawnFor = wanted;
  }

  /** Fetch the music together with the page, so that the first recording needs no network. */
  async fetchAhead() {
    const window_ = document.documentElement.clientWidth;
    // As wide as the open view leaves it (`stand.css`).
    const width = Math.round(window_ - 2 * Math.min(MARGIN_PX[1], Math.max(MARGIN_PX[0], window_ * MARGIN_SHARE)));
    this.zoom = Math.min(LARGEST, Math.max(SMALLEST, width / WIDTH_FOR_ONE));
    if (!this.isOpen) await this.fetchDrawing(width);
  }

  /** @param {string} drawing */
  put(drawing) {
    this.place.innerHTML = drawing;
    // The page has the same notes under the same names.
    for (const element of this.place.querySelectorAll("[id]")) {
      if (element.classList.contains("target")) element.setAttribute("data-target", numberOf(element));
      element.removeAttribute("id");
    }
    this.rows = [...this.place.querySelectorAll("[data-row]")].map((element) => ({
      element: /** @type {SVGGElement} */ (element),
      height: Number(element.getAttribute("data-height")),
      places: JSON.parse(element.getAttribute("data-places") ?? "{}"),
    }));
    this.rowOfBar = new Map(this.rows.flatMap(({ element }, k) => [...element.querySelectorAll("[data-bar]")].map((bar) => [Number(bar.getAttribute("data-bar")), k])));
    this.cursor = new Cursor(/** @type {Element} */ (this.place.querySelector("svg")), this.needs.data.bars);
    this.showAsked();
    if (this.dueNow) this.due(this.dueNow.pitches, this.dueNow.second);
  }

  /** As many rows as there is room for, two at least where they can still be read. The share of the room that they fill. */
  lay() {
    const svg = this.place.querySelector("svg");
    if (!svg || this.rows.length === 0) return 1;
    const [room, width] = [this.place.clientHeight, Number(svg.dataset.width)];
    const high = Math.max(...this.rows.map((row) => row.height));
    const full = this.place.clientWidth / width;
    let count = Math.max(1, Math.min(this.rows.length, Math.floor(room / (high * full))));
    if (count < 2 && this.rows.length > 1 && room / (2 * high) >= MIN_SCALE) count = 2;
    const scale = Math.min(full, room / (count * high));
    svg.setAttribute("viewBox", `0 0 ${width} ${count * high}`);
    svg.style.width = `${scale * width}px`;
    svg.style.height = `${scale * count * high}px`;
    this.slots = Array(count).fill(-1);
    this.high = high;
    this.showRows(this.rowOf(this.barAt(this.second).number));
    return (scale * count * high) / Math.max(1, room);
  }

  /** @param {number} bar */
  rowOf(bar) {
    return this.rowOfBar.get(bar) ?? 0;
  }

  /** The row that is played, with those that follow below it; behind the last one those of the next round.
   * @param {number} now */
  showRows(now) {
    if (!this.chosen) return;
    const [first, last] = [this.rowOf(this.chosen.from), this.rowOf(this.chosen.to)];
    const span = last - first + 1;
    const at = this.slots.indexOf(now);
    const isNextBelow = at >= 0 && at < this.slots.length - 1;
    if (!isNextBelow || span <= this.slots.length) {
      const top = span <= this.slots.length ? first : now;
      const rows = [...new Set(this.slots.map((_, k) => first + ((top - first + k) % span)))];
      this.slots = this.slots.map((_, k) => rows[k] ?? -1);
    }
    this.rows.forEach(({ element }, k) => {
      const slot = this.slots.indexOf(k);
      element.classList.toggle("is-away", slot < 0);
      element.classList.toggle("is-now", k === now);
      if (slot >= 0) element.setAttribute("transform", `translate(0 ${slot * this.high})`);
    });
  }

  /** @param {number} second */
  barAt(second) {
    const { bars } = this.needs.data;
    const { from, to } = this.chosen ?? { from: firstBar(bars), to: lastBar(bars) };
    return barsFrom(bars, from, to).find((bar) => second < bar.end) ?? bars[barIndex(bars, to)];
  }

  /** @param {number} second of the music, less than its beginning in the count-in */
  show(second) {
    if (!this.isOpen) return;
    if (second < this.second - ROUND_S) this.trace.age();
    this.second = second;
    const bar = this.barAt(second);
    this.showBeat(second, bar);
    this.showNext(second);
    this.showAllowed(second);
    if (this.rows.length === 0) return;
    const row = this.rowOf(bar.number);
    if (!this.rows[row].element.classList.contains("is-now")) this.showRows(row);
    this.cursor?.show(Math.max(second, bar.start));
  }

  /** @param {number} second @param {PlainBar} bar */
  showBeat(second, bar) {
    const { beats } = this;
    const { find, data } = this.needs;
    const count = bar.beats.length;
    const isCountIn = second < bar.start && !this.waits;
    const into = Math.floor((second - bar.start) / ((bar.end - bar.start) / count));
    const at = isCountIn ? ((into % count) + count) % count : Math.max(0, bar.beats.findLastIndex((beat) => second >= beat - TOGETHER_S));
    const beatKey = `${bar.number}|${at}|${isCountIn}`;
    if (this.shownBeat === beatKey) return;
    this.shownBeat = beatKey;
    find("count").textContent = String(at + 1);
    find("count").classList.toggle("is-count-in", isCountIn);
    find("bar-now").textContent = isCountIn ? gettext("count-in") : bar.number === 0 ? gettext("pick-up") : interpolate(gettext("bar %(bar)s of %(last)s"), { bar: bar.number, last: this.chosen?.to ?? lastBar(data.bars) }, true);
    if (beats.children.length !== count) beats.replaceChildren(...Array.from({ length: count }, () => document.createElement("span")));
    [...beats.children].forEach((dot, k) => {
      dot.classList.toggle("is-now", k === at);
      dot.classList.toggle("is-first", k === 0);
    });
  }

  /** Which notes may be played now, where the music is made up. @param {number} second */
  showAllowed(second) {
    const { data, find, instrument, name } = this.needs;
    const now = data.allowedNotes.findLast(([from]) => from <= Math.max(second, 0) + TOGETHER_S);
    if (now === this.allowed) return;
    this.allowed = now;
    const pitches = now?.[1] ?? [];
    instrument.allow(pitches);
    // Octaves say nothing here: any is allowed.
    const names = pitches.map((pitch) => name(data.hasLanes ? pitch : LOWEST_NAMED + pitch)).map((words) => (data.hasLanes ? words : words.replace(/-?\d+$/, "")));
    find("allowed-now").textContent = names.length > 0 ? interpolate(gettext("Now: %(notes)s"), { notes: names.join(", ") }, true) : "";
  }

  /** The keys of the next moment are lit. @param {number} second */
  showNext(second) {
        const { instrument, how } = this.needs;
    const next = how.isOn("shows-next") ? this.ownNotes.find(([onset]) => onset > second + TOGETHER_S) : undefined;
    const pitches = next ? this.ownNotes.filter(([onset]) => Math.abs(onset - next[0]) < TOGETHER_S).map(([, , pitch]) => pitch) : [];
    const lit = pitches.join(" ");
    if (lit === this.lit) return;
    this.lit = lit;
    const fingers = new Map(next ? this.needs.data.target.flatMap(([onset, , pitch], n) => (Math.abs(onset - next[0]) < TOGETHER_S ? [[pitch, this.needs.data.fingers[n]]] : [])) : []);
    instrument.light(pitches, fingers);
  }

  /** The player has struck a key. @param {number} pitch
   * @param {number | null} second of the music at which it was struck; null where only the music is followed */
  struck(pitch, second) {
    if (!this.isOpen) return;
    const heard = this.follower?.hear(pitch);
    if (heard !== undefined && heard !== null) this.show(heard);
    if (this.needs.how.isOn("shows-trace") && !this.waits) this.trace.note(pitch, second ?? this.second);
  }

  /** The notes that are waited for; also in a drawing that comes later. @param {number[]} pitches @param {number} second */
  due(pitches, second) {
    this.dueNow = { pitches, second };
    for (const note of this.place.querySelectorAll(".is-due")) note.classList.remove("is-due");
    this.needs.data.target.forEach(([onset, , pitch], n) => {
      if (Math.abs(onset - second) > TOGETHER_S || !pitches.includes(pitch)) return;
      for (const note of this.place.querySelectorAll(`[data-target="${n}"]`)) note.classList.add("is-due");
    });
  }
}
