/**
 * Plays notes of a part and a take, bar by bar, and moves the cursor over the Page view.
 */
import { CHANNEL_BACKING, CHANNEL_PART, CHANNEL_TAKE, NOTE_OFF, NOTE_ON, channelOf } from "./sound.js";

const AHEAD_S = 0.3;
const TICK_MS = 60;
const START_S = 0.12;
const TAIL_S = 0.8;

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
    /** @type {PlayOrder} */
    this.order = { what: "target", from: 1, to: 1, rate: 1, loop: false, click: false };
    /** @type {[number, number, number, number][]} second, status (0: click), data1, data2 */
    this.events = [];
    this.from = 0;
    this.until = 0;
    this.next = 0;
    this.startedAt = 0;
  }

  /** @param {PlayOrder} order @param {number} startAt on the audio clock; 0 for at once */
  async play(order, startAt = 0) {
    this.stop();
    await this.sound.open();
    const bars = this.data.bars.slice(order.from - 1, order.to);
    if (bars.length === 0) return;
    this.from = bars[0].start;
    this.until = bars[bars.length - 1].end;
    this.order = order;
    this.events = this.eventsOf(order, bars);
    this.isPlaying = true;
    this.onChange(true);
    this.round = 0;
    this.begin(startAt || this.sound.context.currentTime + START_S);
    this.timer = window.setInterval(() => this.ahead(), TICK_MS);
    this.draw();
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
   * Messages and clicks as [second of the music, message or click], in order.
   * @param {PlayOrder} order @param {PlainBar[]} bars
   */
  eventsOf(order, bars) {
    /** @type {[number, number, number, number][]} second, status (0: click), data1, data2 */
    const events = [];
    const drums = this.data.kind === "drums";
    /** @param {PlainNote[]} notes @param {number} channel @param {number} early @param {boolean} isKit @param {number} level */
    const add = (notes, channel, early = 0, isKit = drums, level = 1) => {
      const to = channelOf(channel, isKit);
      for (const [onset, length, pitch, velocity] of notes) {
        if (onset < this.from - early || onset >= this.until) continue;
        events.push([onset, NOTE_ON | to, pitch, Math.max(1, Math.round(velocity * level))]);
        events.push([onset + Math.max(length, 0.05), NOTE_OFF | to, pitch, 64]);
      }
    };
    const { silent = [] } = order;
    const heard = this.data.target.filter((_, k) => !silent.includes(this.data.voices[k]));
    if (order.what !== "take" && order.what !== "nothing") add(heard, CHANNEL_PART);
    if (order.what !== "take" || drums) add(this.data.cues, CHANNEL_PART);
    // A take's first note may come before its bar: it belongs to it all the same.
    if ((order.what === "take" || order.what === "both") && this.data.take) {
      add(this.data.take, CHANNEL_TAKE, 0.1);
      const to = channelOf(CHANNEL_TAKE, drums);
      for (const [second, status, ...bytes] of this.data.controls ?? []) {
        if (second < this.until) events.push([Math.max(second, this.from), (status & 0xf0) | to, ...bytes]);
      }
    }
    if (order.backing) add(order.backing.notes, CHANNEL_BACKING, 0, order.backing.isDrums, order.backing.level);
    if (order.click) {
      for (const bar of bars) bar.beats.forEach((beat, k) => events.push([beat, 0, k === 0 ? 1 : 0, 0]));
    }
    return events.sort((a, b) => a[0] - b[0]);
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
      const time = this.startedAt + (second - this.from) / rate;
      if (time > horizon) break;
      this.next += 1;
      if (status === 0) this.sound.click(Math.max(time, context.currentTime), data1 === 1);
      else due.push([time, status, data1, data2]);
    }
    if (due.length > 0) this.sound.play(due);
    const end = this.startedAt + (this.until - this.from) / rate;
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
    return Math.min(this.until, this.from + since);
  }

  draw() {
    if (!this.isPlaying) return;
    const position = this.position;
    if (position !== null) this.cursor?.show(position);
    requestAnimationFrame(() => this.draw());
  }

  stop() {
    window.clearInterval(this.timer);
    if (!this.isPlaying) return;
    this.isPlaying = false;
    this.sound.hush();
    if (this.data.controls?.length) this.sound.atRest(CHANNEL_TAKE);
    this.cursor?.hide();
    this.onChange(false);
  }
}
