/**
 * Records against the click: count-in, bars, end; round and round if wanted; without a click from the
 * first note on.
 *
 * @typedef {import("../sound.js").Sound} Sound
 * @typedef {import("./clock.js").Clock} Clock
 * @typedef {{
 *   onBeat(beat: Beat): void,
 *   onPosition(second: number): void,
 *   onEnd(events: RawEvent[], ending: Ending): void,
 *   onRound?(events: RawEvent[], number: number): void,
 * }} Listeners  rounds are counted from 0; the last one ends with `onEnd`
 */
import { ALL_NOTES_OFF, CONTROL, NOTE_OFF, NOTE_ON } from "../sound.js";

const DIVIDED_LEVEL = 0.5;
const LEAD_S = 0.25;
const TAIL_S = 0.7;
const WATCH_MS = 20;
/** So long before a round ends, the next one is scheduled. */
const AHEAD_S = 1;
/** A note so little before a round begins belongs to it. */
const EARLY_S = 0.15;
/** Without a click a take ends after so long a silence. */
const SILENCE_S = 5;
/** The clocks may part by so much during a take before its timing is in doubt. */
const DISTURBED_MS = 5;
/** Where the sound stands still for so long, nobody hears a click any more. */
const STILL_MS = 1500;

export class Recorder {
  /** @param {Sound} sound @param {Clock} clock @param {PlainBar[]} bars in seconds from bar 1 @param {number} countInBars @param {Listeners} listeners */
  constructor(sound, clock, bars, countInBars, listeners) {
    this.sound = sound;
    this.clock = clock;
    this.bars = bars;
    this.countInBars = countInBars;
    this.listeners = listeners;
    this.isRecording = false;
    /** Did audio clock and time stamps agree at the start? */
    this.isSteady = true;
    /** False once it is stopped, also before it has begun. */
    this.isWanted = true;
    /** @type {RawEvent[]} */
    this.events = [];
    /** @type {(Beat & {time: number})[]} */
    this.beats = [];
    this.shown = 0;
    /** On the audio clock: second 0 of the music. */
    this.downbeat = 0;
    this.keepFromMs = 0;
    this.offsetAtStart = 0;
    /** @type {ClickRules} */
    this.click = { on: true, sound: "tick", level: 0.8, divides: 1 };
    /** Of full, whatever the mixer says; null for as the mixer says. */
    this.clickVolume = /** @type {number | null} */ (null);
    /** @type {{notes: PlainNote[], channel: number}[]} what sounds along, in seconds from bar 1 */
    this.along = [];
    /** How many rounds of the bars; only the first has a count-in. */
    this.rounds = 1;
    this.round = 0;
    this.scheduledRound = 0;
    /** The round that is being played counts for nothing. */
    this.isVoid = false;
    /** @type {number[]} keys still down of notes that were handed over */
    this.hanging = [];
    /** Without a click: where the first note of the music stands, in seconds; null with one. */
    this.freeFrom = /** @type {number | null} */ (null);
    this.lastInput = 0;
    /** Second of the music at which it was stopped. */
    this.stoppedAt = Infinity;
    /** Since when the sound stands still, in ms of the page; 0 while it runs. */
    this.stillSince = 0;
  }

  get beginning() {
    return this.bars[0].start;
  }

  get end() {
    return this.bars[this.bars.length - 1].end;
  }

  get span() {
    return this.end - this.beginning;
  }

  /** Start the count-in. Resolves to second 0 of the music as an event's time stamp, in ms. */
  async start() {
    this.isSteady = await this.clock.steady();
    if (!this.isWanted) {
      // Stopped while the clocks were compared: nothing was played.
      this.finish("stopped");
      return Infinity;
    }
    this.events = [];
    this.round = 0;
    this.scheduledRound = 0;
    this.hanging = [];
    this.shown = 0;
    this.isRecording = true;
    this.offsetAtStart = this.clock.offsetMs;
    if (this.freeFrom !== null) {
      this.downbeat = Infinity;
      this.lastInput = Infinity;
      this.watch();
      return Infinity;
    }
    const first = this.bars[0];
    const barS = first.end - first.start;
    const beatS = barS / first.beats.length;
    const countInS = this.countInBars * barS;
    this.downbeat = this.sound.context.currentTime + LEAD_S + countInS - first.start;
    /** Notes in the last beat before bar 1 belong to the take. */
    this.keepFromMs = 1000 * (first.start - (countInS > 0 ? beatS : LEAD_S));
    this.beats = [];
    for (let bar = -this.countInBars; bar < 0; bar++) {
      first.beats.forEach((_, k) =>
        this.beats.push({
          time: first.start + bar * barS + k * beatS,
          bar: bar + first.number, beat: k + 1, beats: first.beats.length, isCountIn: true,
        }),
      );
    }
    this.schedule(this.downbeat, this.beats);
    this.addBars(0);
    this.watch();
    return 1000 * this.downbeat + this.offsetAtStart;
  }

  /** The bars of a round: their beats, click and what sounds along. @param {number} round */
  addBars(round) {
    const later = round * this.span;
    const beats = this.bars.flatMap((bar) =>
      bar.beats.map((time, k) => ({ time: time + later, bar: bar.number, beat: k + 1, beats: bar.beats.length, isCountIn: false })),
    );
    this.beats.push(...beats);
    this.schedule(this.downbeat, beats, this.end + later);
    this.scheduleAlong(this.downbeat + later);
  }

  /** The count-in always sounds; behind it the click as the exercise rules it.
   * @param {number} zero @param {(Beat & {time: number})[]} beats @param {number} end */
  schedule(zero, beats, end = 0) {
    const volume = this.clickVolume ?? this.sound.clickVolume;
    beats.forEach(({ time, beat, isCountIn }, k) => {
      if (!isCountIn && !this.click.on) return;
      this.sound.click(zero + time, beat === 1, this.click, isCountIn ? Math.max(volume, 0.5) : volume);
      const next = beats[k + 1]?.time ?? end;
      for (let part = 1; part < this.click.divides && !isCountIn; part++) {
        const at = time + ((next - time) * part) / this.click.divides;
        this.sound.click(zero + at, false, { ...this.click, level: this.click.level * DIVIDED_LEVEL }, volume);
      }
    });
  }

  /** @param {number} zero */
  scheduleAlong(zero) {
    /** @type {TimedMessage[]} */
    const messages = [];
    for (const { notes, channel } of this.along) {
      for (const [onset, length, pitch, velocity] of notes) {
        if (onset < this.beginning - EARLY_S || onset >= this.end) continue;
        const time = zero + onset;
        messages.push([time, NOTE_ON | channel, pitch, Math.max(1, Math.min(127, Math.round(velocity)))]);
        messages.push([time + Math.max(length, 0.05), NOTE_OFF | channel, pitch, 64]);
      }
    }
    if (messages.length > 0) this.sound.play(messages.sort((a, b) => a[0] - b[0]));
  }

  /** @param {NoteInput} input */
  receive({ timeStamp, bytes }) {
    if (!this.isRecording) return;
    const at = this.clock.audioTime(timeStamp);
    const isOn = (bytes[0] & 0xf0) === NOTE_ON && bytes[2] > 0;
    this.lastInput = at;
    if (this.downbeat === Infinity && this.freeFrom !== null) {
      if (!isOn) return;
      this.downbeat = at - this.freeFrom;
      this.keepFromMs = -Infinity;
    }
    const timeMs = 1000 * (at - this.downbeat);
    if (timeMs < this.keepFromMs) return;
    this.events.push([timeMs, bytes[0], bytes[1], bytes[2]]);
  }

  /** Where in the bars something was played, in seconds of the music, by its own time and without the latency; null where
   * nothing is recorded against the click.
   * @param {number} timeStamp in ms @param {number} latencyMs */
  secondOf(timeStamp, latencyMs) {
    if (!this.isRecording || this.freeFrom !== null) return null;
    const second = this.clock.audioTime(timeStamp - latencyMs) - this.downbeat;
    return second < this.beginning ? second : this.beginning + ((second - this.beginning) % this.span);
  }

  watch() {
    if (!this.isRecording) return;
    if (this.sound.context.state === "running") this.stillSince = 0;
    else {
      this.stillSince ||= performance.now();
      if (performance.now() - this.stillSince > STILL_MS) return this.stop("stalled");
    }
    const clockNow = this.clock.audioTime(performance.now());
    if (this.freeFrom !== null) {
      if (clockNow > this.lastInput + SILENCE_S) return this.finish("itself");
      window.setTimeout(() => this.watch(), WATCH_MS);
      return;
    }
    const now = clockNow - this.downbeat;
    while (this.shown < this.beats.length && this.beats[this.shown].time <= now) {
      this.listeners.onBeat(this.beats[this.shown]);
      this.shown += 1;
    }
    const roundEnd = this.end + this.round * this.span;
    this.listeners.onPosition(now < this.beginning ? now : this.beginning + ((now - this.beginning) % this.span));
    if (this.round + 1 < this.rounds) {
      if (now > roundEnd - AHEAD_S && this.scheduledRound <= this.round) this.addBars((this.scheduledRound = this.round + 1));
      if (now > roundEnd + EARLY_S) this.endRound();
    } else if (now > roundEnd + TAIL_S) return this.finish("itself");
    window.setTimeout(() => this.watch(), WATCH_MS);
  }

  /** Hand over what belongs to the round; what comes so early that it belongs to the next one, stays.
   * A note goes with its beginning: the end of one that was handed over before goes nowhere. */
  endRound() {
    const border = 1000 * (this.end - EARLY_S + this.round * this.span);
    /** @type {RawEvent[]} */
    const belongs = [];
    /** @type {RawEvent[]} */
    const stays = [];
    /** @type {Map<number, RawEvent[]>} where the note of a key went */
    const went = new Map(this.hanging.map((key) => [key, []]));
    for (const event of this.events) {
      const [time, status, data1, data2] = event;
      const kind = status & 0xf0;
      let to = time < border ? belongs : stays;
      if (kind === NOTE_ON && data2 > 0) went.set(data1, to);
      else if (kind === NOTE_ON || kind === NOTE_OFF) {
        to = went.get(data1) ?? to;
        went.delete(data1);
      }
      to.push(event);
    }
    this.hanging = [...went].filter(([, to]) => to === belongs).map(([key]) => key);
    this.endHeld(belongs, Math.max(border, ...belongs.map(([time]) => time)));
    this.events = stays;
    if (!this.isVoid) this.listeners.onRound?.(this.ofRound(belongs), this.round);
    this.isVoid = false;
    this.round += 1;
  }

  /** Times of a round as of the bars themselves. @param {RawEvent[]} events @returns {RawEvent[]} */
  ofRound(events) {
    const later = 1000 * this.round * this.span;
    return events.map(([time, ...bytes]) => [time - later, ...bytes]);
  }

  /** The round that is being played is not wanted: it is played once more instead. */
  redoRound() {
    if (!this.isRecording || this.rounds === 1) return;
    this.isVoid = true;
    this.rounds += 1;
  }

  /** It could not begin: nothing sounds on, nothing is handed over. */
  abandon() {
    this.isRecording = false;
    this.sound.hush();
  }

  /** Stop now. In the count-in nothing is kept. @param {Ending} ending */
  stop(ending = "stopped") {
    this.isWanted = false;
    if (!this.isRecording) return;
    this.stoppedAt = this.clock.audioTime(performance.now()) - this.downbeat;
    if (this.stoppedAt < this.beginning) this.events = [];
    this.finish(ending);
  }

  /** Bars that were played to their end when it was stopped. */
  get barsPlayed() {
    return this.bars.filter((bar) => bar.end <= this.stoppedAt).length;
  }

  /** By how much the audio clock has stumbled since the start, in ms; 0 if it kept time. */
  get disturbanceMs() {
    const apart = Math.abs(this.clock.offsetMs - this.offsetAtStart);
    return apart > DISTURBED_MS ? apart : 0;
  }

  /** Keys that are still down end with the recording: All Notes Off says that they were held until then.
   * @param {RawEvent[]} events @param {number} timeMs */
  endHeld(events, timeMs) {
    const down = new Set();
    for (const [, status, data1, data2] of events) {
      const [kind, channel] = [status & 0xf0, status & 0x0f];
      if (kind === NOTE_ON && data2 > 0) down.add(`${channel} ${data1}`);
      else if (kind === NOTE_ON || kind === NOTE_OFF) down.delete(`${channel} ${data1}`);
    }
    const channels = new Set([...down].map((key) => Number(key.split(" ")[0])));
    for (const channel of channels) events.push([timeMs, CONTROL | channel, ALL_NOTES_OFF, 0]);
  }

  /** @param {Ending} ending */
  finish(ending) {
    this.isRecording = false;
    this.endHeld(this.events, 1000 * (this.clock.audioTime(performance.now()) - this.downbeat));
    this.sound.hush();
    this.listeners.onEnd(this.isVoid ? [] : this.ofRound(this.events), ending);
  }
}
