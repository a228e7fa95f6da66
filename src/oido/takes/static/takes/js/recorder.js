/**
 * Records a take against the click: count-in, bars, end.
 *
 * @typedef {import("../../common/js/sound.js").Sound} Sound
 * @typedef {import("./clock.js").Clock} Clock
 */
import { CHANNEL_PART, NOTE_OFF, NOTE_ON } from "../../common/js/sound.js";

const DIVIDED_LEVEL = 0.5;
const LEAD_S = 0.25;
const TAIL_S = 0.7;
const WATCH_MS = 20;
/** The clocks may part by so much during a take before its timing is in doubt. */
const DISTURBED_MS = 5;

export class Recorder {
  /**
   * @param {Sound} sound @param {Clock} clock @param {PlainBar[]} bars @param {number} countInBars
   * @param {{onBeat(beat: Beat): void, onPosition(second: number): void, onEnd(events: RawEvent[], wasWhole: boolean): void}} listeners
   */
  constructor(sound, clock, bars, countInBars, listeners) {
    this.sound = sound;
    this.clock = clock;
    this.bars = bars;
    this.countInBars = countInBars;
    this.listeners = listeners;
    this.isRecording = false;
    /** @type {RawEvent[]} */
    this.events = [];
    /** @type {(Beat & {time: number})[]} */
    this.beats = [];
    this.shown = 0;
    this.downbeat = 0;
    this.end = 0;
    this.keepFromMs = 0;
    this.offsetAtStart = 0;
    /** @type {ClickRules} */
    this.click = { on: true, sound: "tick", level: 0.8, divides: 1 };
    /** @type {PlainNote[]} notes that sound along, in seconds from bar 1 */
    this.backing = [];
    this.backingLevel = 1;
    this.backingChannel = CHANNEL_PART;
  }

  /** Start the count-in. Resolves to the downbeat of bar 1 as an event's time stamp, in ms. */
  async start() {
    await this.clock.steady();
    const first = this.bars[0];
    const beatS = (first.end - first.start) / first.beats.length;
    const countInS = this.countInBars * (first.end - first.start);
    this.events = [];
    this.downbeat = this.sound.context.currentTime + LEAD_S + countInS;
    /** Notes in the last beat before bar 1 belong to the take. */
    this.keepFromMs = -1000 * (countInS > 0 ? beatS : LEAD_S);
    this.end = this.bars[this.bars.length - 1].end;
    this.beats = [];
    for (let bar = -this.countInBars; bar < 0; bar++) {
      first.beats.forEach((_, k) =>
        this.beats.push({
          time: bar * (first.end - first.start) + k * beatS,
          bar: bar + 1, beat: k + 1, beats: first.beats.length, isCountIn: true,
        }),
      );
    }
    for (const bar of this.bars) {
      bar.beats.forEach((time, k) =>
        this.beats.push({ time, bar: bar.number, beat: k + 1, beats: bar.beats.length, isCountIn: false }),
      );
    }
    this.scheduleClick();
    this.scheduleBacking();
    this.shown = 0;
    this.isRecording = true;
    this.offsetAtStart = this.clock.offsetMs;
    this.watch();
    return 1000 * this.downbeat + this.offsetAtStart;
  }

  /** The count-in always sounds; behind it the click as the exercise rules it. */
  scheduleClick() {
    this.beats.forEach(({ time, beat, isCountIn }, k) => {
      if (!isCountIn && !this.click.on) return;
      this.sound.click(this.downbeat + time, beat === 1, this.click);
      const next = this.beats[k + 1]?.time ?? this.end;
      for (let part = 1; part < this.click.divides && !isCountIn; part++) {
        const at = time + ((next - time) * part) / this.click.divides;
        this.sound.click(this.downbeat + at, false, { ...this.click, level: this.click.level * DIVIDED_LEVEL });
      }
    });
  }

  scheduleBacking() {
    /** @type {TimedMessage[]} */
    const messages = [];
    for (const [onset, length, pitch, velocity] of this.backing) {
      const time = this.downbeat + onset;
      const strength = Math.max(1, Math.min(127, Math.round(velocity * this.backingLevel)));
      messages.push([time, NOTE_ON | this.backingChannel, pitch, strength]);
      messages.push([time + Math.max(length, 0.05), NOTE_OFF | this.backingChannel, pitch, 64]);
    }
    if (messages.length > 0) this.sound.play(messages.sort((a, b) => a[0] - b[0]));
  }

  /** @param {NoteInput} input */
  receive({ timeStamp, bytes }) {
    if (!this.isRecording) return;
    const timeMs = 1000 * (this.clock.audioTime(timeStamp) - this.downbeat);
    if (timeMs < this.keepFromMs) return;
    this.events.push([timeMs, bytes[0], bytes[1], bytes[2]]);
  }

  watch() {
    if (!this.isRecording) return;
    const now = this.clock.audioTime(performance.now()) - this.downbeat;
    while (this.shown < this.beats.length && this.beats[this.shown].time <= now) {
      this.listeners.onBeat(this.beats[this.shown]);
      this.shown += 1;
    }
    this.listeners.onPosition(now);
    if (now > this.end + TAIL_S) this.finish(true);
    else window.setTimeout(() => this.watch(), WATCH_MS);
  }

  /** Stop now. In the count-in nothing is kept. */
  stop() {
    if (!this.isRecording) return;
    const now = this.clock.audioTime(performance.now()) - this.downbeat;
    if (now < 0) this.events = [];
    this.finish(false);
  }

  /** By how much the audio clock has stumbled since the start, in ms; 0 if it kept time. */
  get disturbanceMs() {
    const apart = Math.abs(this.clock.offsetMs - this.offsetAtStart);
    return apart > DISTURBED_MS ? apart : 0;
  }

  /** @param {boolean} wasWhole */
  finish(wasWhole) {
    this.isRecording = false;
    this.sound.hush();
    this.listeners.onEnd(this.events, wasWhole);
  }
}
