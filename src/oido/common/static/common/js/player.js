/**
 * Plays notes of a part and a take, bar by bar, and moves the cursor over the Page view.
 */
import { barsFrom } from "./bar_numbers.js";
import { CHANNEL_BACKING, CHANNEL_PART, CHANNEL_TAKE, CONTROL, NOTE_OFF, NOTE_ON, PEDAL, channelOf } from "./sound.js";

const AHEAD_S = 0.3;
const TICK_MS = 60;
const START_S = 0.12;
const TAIL_S = 0.8;
/** What is left of the music where it is heard from a note near its end. */
const MIN_S = 0.5;
/** Quiet between two places. */
const PAUSE_S = 0.35;
/** So long before its bar a note may come and belong to it. */
const EARLY_S = 0.1;
/** Less than any two beats are apart: what rounding may do to a second. */
const NUDGE_S = 1e-4;

/** Seconds of the music, and when it sounds, in seconds since the start.
 * @typedef {{from: number, until: number, at: number}} Span */

/** @typedef {import("./sound.js").Sound} Sound */
/** @typedef {import("./cursor.js").Cursor} Cursor */

export class Player {
  /**
   * @param {Sound} sound
   * @param {Playing} data
   * @param {Cursor | null} cursor
   * @param {(isPlaying: boolean) => void} onChange
   * @param {(number: number, time: number) => void} onLoop a round begins: its number from 0, and when on the audio clock
   */
  constructor(sound, data, cursor, onChange, onLoop = () => {}) {
    this.sound = sound;
    this.data = data;
    this.cursor = cursor;
    this.onChange = onChange;
    this.onLoop = onLoop;
    this.round = 0;
    /** @type {number | undefined} */
    this.nextRate = undefined;
    /** @type {number | undefined} */
    this.timer = undefined;
    this.isPlaying = false;
    /** Counts what was asked for and stopped. */
    this.wanted = 0;
    /** @type {PlayOrder} */
    this.order = { what: "target", from: 1, to: 1, rate: 1, loop: false, click: false };
    /** @type {[number, number, number, number][]} seconds since the start, status (0: click), data1, data2 */
    this.events = [];
    /** @type {Span[]} stretches of the music that sound one after the other */
    this.spans = [];
    this.lasts = 0;
    this.next = 0;
    this.startedAt = 0;
  }

  /** @param {PlayOrder} order @param {number} startAt on the audio clock; 0 for at once */
  async play(order, startAt = 0) {
    this.stop();
    const wanted = this.wanted;
    await this.sound.ready(this.channelsOf(order));
    // Stopped, or asked for something else, while the sounds were getting ready.
    if (wanted !== this.wanted) return;
    this.order = order;
    this.spans = this.spansOf(order);
    if (this.spans.length === 0) return;
    const last = this.spans[this.spans.length - 1];
    this.lasts = last.at + last.until - last.from;
    this.events = this.spans.flatMap((span) => this.eventsOf(order, span)).sort((a, b) => a[0] - b[0]);
    this.sound.setApart(order.apart ?? false);
    this.isPlaying = true;
    this.onChange(true);
    this.round = 0;
    this.begin(startAt || this.sound.context.currentTime + START_S);
    this.timer = window.setInterval(() => this.ahead(), TICK_MS);
    this.draw();
  }

  /** Channels that sound then. @param {Pick<PlayOrder, "what" | "backing">} order */
  channelsOf({ what, backing }) {
    const own = { target: [CHANNEL_PART], both: [CHANNEL_PART, CHANNEL_TAKE], take: [CHANNEL_TAKE], corrected: [CHANNEL_TAKE] };
    const channels = (own[/** @type {keyof typeof own} */ (what)] ?? []).map((channel) => channelOf(channel, this.data.hasLanes));
    return backing ? [...channels, channelOf(CHANNEL_BACKING, backing.hasLanes)] : channels;
  }

  /** @param {number} time when the first bar sounds, on the audio clock */
  begin(time) {
    this.startedAt = time;
    this.next = 0;
    this.onLoop(this.round, time);
    this.round += 1;
    this.ahead();
  }

  /** From the next round on, so fast.
   * @param {number} rate */
  changeRate(rate) {
    this.nextRate = rate;
  }

  /**
   * What is ordered, as stretches of the music: bars, from a note on, or places one after the other.
   * @param {PlayOrder} order @returns {Span[]}
   */
  spansOf(order) {
    const bars = barsFrom(this.data.bars, order.from, order.to);
    if (bars.length === 0) return [];
    const until = bars[bars.length - 1].end;
    const start = order.start === undefined ? bars[0].start : Math.min(order.start, until - MIN_S);
    const wanted = order.places ?? [[start, until]];
    /** @type {Span[]} */
    const spans = [];
    let at = 0;
    for (const [from, end] of wanted) {
      const before = spans[spans.length - 1];
      // Places that run into each other are heard as one.
      if (before && from <= before.until) {
        const more = Math.max(0, end - before.until);
        before.until += more;
        at += more;
        continue;
      }
      if (before) at += PAUSE_S;
      spans.push({ from, until: end, at });
      at += end - from;
    }
    return spans;
  }

  /**
   * Messages and clicks of one stretch as [seconds since the start, message or click].
   * @param {PlayOrder} order @param {Span} span
   */
  eventsOf(order, { from, until, at }) {
    /** @type {[number, number, number, number][]} */
    const events = [];
    const { hasLanes } = this.data;
    const when = (/** @type {number} */ second) => at + second - from;
    /** @param {PlainNote[]} notes @param {number} channel @param {number} early @param {boolean} isKit @param {number} level */
    const add = (notes, channel, early = 0, isKit = hasLanes, level = 1) => {
      const to = channelOf(channel, isKit);
      for (const [onset, length, pitch, velocity] of notes) {
        if (onset < from - early || onset >= until) continue;
        events.push([when(onset), NOTE_ON | to, pitch, Math.max(1, Math.round(velocity * level))]);
        // Between two places it is quiet.
        const ends = order.places ? Math.min(onset + Math.max(length, 0.05), until) : onset + Math.max(length, 0.05);
        events.push([when(ends), NOTE_OFF | to, pitch, 64]);
      }
    };
    const { silent = [], only } = order;
    const heard = this.data.target.filter((_, k) => !silent.includes(this.data.voices[k]) && (!only || only.has(k)));
    const hasPart = order.what === "target" || order.what === "both";
    const hasTake = order.what === "take" || order.what === "both";
    if (hasPart) {
      const to = channelOf(CHANNEL_PART, hasLanes);
      for (const [second, value] of this.data.pedal) {
        if (second < until) events.push([when(Math.max(second, from)), CONTROL | to, PEDAL, value]);
      }
      add(heard, CHANNEL_PART);
    }
    if (hasPart || order.what === "nothing" || hasLanes) add(this.data.cues, CHANNEL_PART);
    // A take's first note may come before its bar: it belongs to it all the same.
    if (hasTake && this.data.take) {
      const { passOf = [] } = this.data;
      add(order.pass === undefined ? this.data.take : this.data.take.filter((_, k) => passOf[k] === order.pass), CHANNEL_TAKE, EARLY_S);
      const to = channelOf(CHANNEL_TAKE, hasLanes);
      for (const [second, status, ...bytes] of this.data.controls ?? []) {
        if (second < until) events.push([when(Math.max(second, from)), (status & 0xf0) | to, ...bytes]);
      }
    }
    if (order.what === "corrected" && this.data.corrected) add(this.data.corrected, CHANNEL_TAKE, EARLY_S);
    if (order.backing) add(order.backing.notes, CHANNEL_BACKING, 0, order.backing.hasLanes, order.backing.level);
    if (order.click) {
      for (const bar of this.data.bars) {
        bar.beats.forEach((beat, k) => {
          if (beat > from - NUDGE_S && beat < until) events.push([when(beat), 0, k === 0 ? 1 : 0, 0]);
        });
      }
    }
    return events;
  }

  /** Hand over what sounds within the next moments. */
  ahead() {
    const { context } = this.sound;
    const { rate, loop } = this.order;
    const horizon = context.currentTime + AHEAD_S;
    /** @type {TimedMessage[]} */
    const due = [];
    while (this.next < this.events.length) {
      const [second, status, data1, data2] = this.events[this.next];
      const time = this.startedAt + second / rate;
      if (time > horizon) break;
      this.next += 1;
      if (status === 0) this.sound.click(Math.max(time, context.currentTime), data1 === 1);
      else due.push([time, status, data1, data2]);
    }
    if (due.length > 0) this.sound.play(due);
    const end = this.startedAt + this.lasts / rate;
    if (loop && end <= horizon && this.next >= this.events.length) {
      this.order = { ...this.order, rate: this.nextRate ?? rate };
      this.nextRate = undefined;
      this.begin(end);
    }
    else if (!loop && context.currentTime > end + TAIL_S) this.stop();
  }

  /** Seconds of the music now, or null. */
  get position() {
    if (!this.isPlaying) return null;
    const since = (this.sound.context.currentTime - this.startedAt) * this.order.rate;
    const span = this.spans.findLast((one) => since >= one.at) ?? this.spans[0];
    return Math.min(span.until, span.from + since - span.at);
  }

  draw() {
    if (!this.isPlaying) return;
    const position = this.position;
    if (position !== null) this.cursor?.show(position);
    requestAnimationFrame(() => this.draw());
  }

  stop() {
    this.wanted += 1;
    window.clearInterval(this.timer);
    if (!this.isPlaying) return;
    this.isPlaying = false;
    this.sound.hush();
    if (this.data.controls?.length) this.sound.atRest(CHANNEL_TAKE);
    if (this.data.pedal.length) this.sound.atRest(CHANNEL_PART);
    this.cursor?.hide();
    this.onChange(false);
  }
}
