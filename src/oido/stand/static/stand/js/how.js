/** How it is played: tempo, bars, hands or lanes. */
import { barIndex, firstBar, lastBar } from "../../common/js/bar_numbers.js";
import { keep, read } from "./settings.js";

const TAPS = 4;
const TAP_GAP_MS = 2500;
/** Onsets are rounded more coarsely than the bars, so that one on a bar line may lie so far before it. */
const ROUNDED_S = 0.0001;

export class How {
  /** @param {HTMLElement} root @param {StandData} data @param {(chosen: Chosen) => void} onChange */
  constructor(root, data, onChange) {
    this.root = root;
    this.data = data;
    this.onChange = onChange;
    this.tempo = /** @type {HTMLInputElement} */ (this.find("tempo"));
    this.slider = /** @type {HTMLInputElement} */ (this.find("tempo-slider"));
    this.from = /** @type {HTMLInputElement} */ (this.find("from"));
    this.to = /** @type {HTMLInputElement} */ (this.find("to"));
    this.loop = /** @type {HTMLInputElement} */ (this.find("loop"));
    /** The tempo is kept for each exercise. */
    this.exercise = `tempo-${data.part}`;
    for (const input of [this.tempo, this.slider]) {
      [input.min, input.max] = data.range.map(String);
      input.addEventListener("change", () => this.setTempo(Number(input.value)));
    }
    this.slider.addEventListener("input", () => (this.tempo.value = this.slider.value));
    for (const button of root.querySelectorAll("[data-tempo-step]")) {
      const step = Number(button.getAttribute("data-tempo-step"));
      button.addEventListener("click", () => this.setTempo(Math.round(this.bpm + step)));
    }
    /** @type {number[]} */
    this.taps = [];
    this.find("tempo-tap").addEventListener("click", (/** @type {Event} */ event) => this.tap(event.timeStamp));
    for (const input of [this.from, this.to]) input.addEventListener("change", () => this.setBars(Number(this.from.value), Number(this.to.value)));
    for (const input of root.querySelectorAll("[data-loop], [data-mine], [data-hear-others], [data-hear-mine]")) {
      input.addEventListener("change", () => this.changed());
    }
    this.find("all-bars").addEventListener("click", () => this.setBars(firstBar(data.bars), lastBar(data.bars)));
    for (const name of ["shows-trace", "shows-next", "shows-beats"]) {
      const box = /** @type {HTMLInputElement | null} */ (this.find(name));
      if (!box) continue;
      box.checked = read(name, true);
      box.addEventListener("change", () => keep(name, box.checked));
    }
    const raise = /** @type {HTMLInputElement | null} */ (this.find("raise"));
    if (raise) {
      raise.checked = read("raise", true);
      raise.addEventListener("change", () => keep("raise", raise.checked));
    }
    const countIn = /** @type {HTMLSelectElement | null} */ (this.find("practice-count-in"));
    if (countIn) {
      countIn.value = String(read("practice-count-in", 1));
      countIn.addEventListener("change", () => keep("practice-count-in", Number(countIn.value)));
    }
    const speaks = /** @type {HTMLSelectElement | null} */ (this.find("speaks"));
    if (speaks) {
      speaks.value = read("speaks", "bars");
      speaks.addEventListener("change", () => keep("speaks", speaks.value));
    }
    this.bpm = data.bpm;
    this.setTempo(Number(read(this.exercise, data.bpm)));
  }

  /** @param {string} what @returns {any} */
  find(what) {
    return this.root.querySelector(`[data-${what}]`);
  }

  /** @param {string} what */
  isOn(what) {
    return /** @type {HTMLInputElement | null} */ (this.find(what))?.checked ?? false;
  }

  /** @param {number} bpm brought to the nearest in range */
  setTempo(bpm) {
    const [least, most] = this.data.range;
    this.bpm = Math.min(most, Math.max(least, Math.round((Number.isFinite(bpm) && bpm > 0 ? bpm : this.data.bpm) * 100) / 100));
    this.slider.value = this.tempo.value = String(this.bpm);
    keep(this.exercise, this.bpm);
    const [slowest, fastest] = this.data.allowed;
    const isAllowed = this.bpm >= slowest - 0.01 && this.bpm <= fastest + 0.01;
    const [a, b] = [Math.ceil(slowest), Math.floor(fastest)];
    const range = a < b ? interpolate(gettext("%(a)s to %(b)s"), { a, b }, true) : `${fastest}`;
    this.find("tempo-told").textContent = !this.data.click.on ? "" : interpolate(
      isAllowed ? gettext("Beat: %(value)s. You can hand in %(range)s.") : gettext("For practice. You can only hand in %(range)s."),
      { range, value: this.data.beatValue }, true,
    );
    this.changed();
  }

  /** The tempo of the last taps, as soon as there are four. @param {number} at in ms */
  tap(at) {
    if (at - (this.taps[this.taps.length - 1] ?? at) > TAP_GAP_MS) this.taps = [];
    this.taps = [...this.taps, at].slice(-TAPS);
    if (this.taps.length < TAPS) return;
    this.setTempo(Math.round((60_000 * (TAPS - 1)) / (at - this.taps[0])));
  }

  /** @param {number} from @param {number} to */
  setBars(from, to) {
    const [first, last] = [firstBar(this.data.bars), lastBar(this.data.bars)];
    const inside = (/** @type {number} */ n) => Math.min(last, Math.max(first, Math.round(n) || first));
    const [a, b] = [inside(from), inside(to)];
    [this.from.value, this.to.value] = [String(Math.min(a, b)), String(Math.max(a, b))];
    this.changed();
  }

  /** Bars are chosen on the page, too: from the one pressed to the one let go; with Shift as far as there.
   * @param {Element} page */
  chooseOn(page) {
    let pressed = 0;
    const barAt = (/** @type {Event} */ event) =>
      Number(/** @type {Element} */ (event.target).closest("[data-bar]")?.getAttribute("data-bar") ?? 0);
    page.addEventListener("pointerdown", (event) => (pressed = barAt(event)));
    page.addEventListener("pointerup", (event) => {
      const bar = barAt(event);
      if (!pressed || !bar) return;
      const { from, to } = this.chosen;
      this.loop.checked = true;
      if (/** @type {PointerEvent} */ (event).shiftKey) this.setBars(Math.min(from, bar), Math.max(to, bar));
      else this.setBars(pressed, bar);
      pressed = 0;
    });
  }

  /** Another step's bars, voices and tempo. @param {number} from @param {number} to @param {string[]} mine @param {number} bpm */
  set(from, to, mine, bpm) {
    for (const box of this.voices) box.checked = mine.length === 0 || mine.includes(box.value);
    this.loop.checked = true;
    this.setBars(from, to);
    this.setTempo(bpm);
  }

  /** What is said while one records. @returns {"bars" | "beats" | "nothing"} */
  get speaks() {
    return this.find("speaks")?.value ?? "bars";
  }

  /** Bars that are counted in before a loop. */
  get practiceCountIn() {
    return Number(this.find("practice-count-in")?.value ?? 1);
  }

  get voices() {
    return /** @type {HTMLInputElement[]} */ ([...this.root.querySelectorAll("[data-mine]")]);
  }

  /** @returns {Chosen} */
  get chosen() {
    const voices = this.voices;
    const mine = voices.filter((box) => box.checked).map((box) => box.value);
    const isAll = mine.length === voices.length;
    const others = voices.filter((box) => !box.checked).map((box) => box.value);
    const own = isAll ? [...new Set(this.data.voices)] : mine;
    return {
      from: Number(this.from.value),
      to: Number(this.to.value),
      loop: this.loop.checked,
      mine: isAll ? [] : mine,
      silent: [...(this.isOn("hear-mine") ? [] : own), ...(isAll || this.isOn("hear-others") ? [] : others)],
      bpm: this.bpm,
    };
  }

  get isAll() {
    return Number(this.from.value) === firstBar(this.data.bars) && Number(this.to.value) === lastBar(this.data.bars);
  }

  changed() {
    this.find("all-bars").hidden = this.isAll;
    this.showChosen();
    this.onChange(this.chosen);
  }

  /** The chosen bars on the page, which may just have been drawn anew. */
  showChosen() {
    const { from, to } = this.chosen;
    for (const place of document.querySelectorAll("[data-page-view] [data-bar]")) {
      const number = Number(place.getAttribute("data-bar"));
      place.classList.toggle("is-chosen", !this.isAll && number >= from && number <= to);
    }
  }
}

/** A part at another tempo: everything so many times as fast.
 * @param {PlainBar[]} bars @param {number} rate @returns {PlainBar[]} */
export function barsAt(bars, rate) {
  return bars.map((bar) => ({ ...bar, start: bar.start / rate, end: bar.end / rate, beats: bar.beats.map((beat) => beat / rate) }));
}

/** @param {PlainNote[]} notes @param {number} rate @returns {PlainNote[]} */
export function notesAt(notes, rate) {
  return notes.map(([onset, length, pitch, velocity]) => [onset / rate, length / rate, pitch, velocity]);
}

/** Notes that the player plays: those of the chosen bars, in the chosen hands or lanes; none chosen is all.
 * @param {Pick<StandData, "target" | "bars" | "voices">} data @param {Pick<Chosen, "from" | "to" | "mine">} chosen @returns {PlainNote[]} */
export function ownNotes({ target, bars, voices }, { from, to, mine }) {
  const [first, last] = [bars[barIndex(bars, from)].start - ROUNDED_S, bars[barIndex(bars, to)].end - ROUNDED_S];
  return target.filter(([onset], k) => onset >= first && onset < last && (mine.length === 0 || mine.includes(voices[k])));
}
