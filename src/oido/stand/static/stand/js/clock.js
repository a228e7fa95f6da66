/**
 * From an event's own time stamp to the audio clock that schedules the click.
 *
 * The context's output timestamp pairs both clocks; the output latency is in it already. The
 * median of the last pairs is steady to about ±0.1 ms, whatever the page is busy with.
 */
const SAMPLES = 100;
const EVERY_MS = 25;
const LEAST_SAMPLES = 10;
/** So many pairs in a row that lie so far from the median: the audio clock has stumbled. */
const STEP_SAMPLES = 6;
const STEP_MS = 3;

export class Clock {
  /** @param {AudioContext} context */
  constructor(context) {
    this.context = context;
    /** @type {number[]} */
    this.samples = [];
    window.setInterval(() => this.sample(), EVERY_MS);
    this.sample();
  }

  sample() {
    const { contextTime, performanceTime } = this.context.getOutputTimestamp();
    if (!contextTime || !performanceTime) return;
    this.samples.push(performanceTime - 1000 * contextTime);
    if (this.samples.length > SAMPLES) this.samples.shift();
    const middle = this.offsetMs;
    const last = this.samples.slice(-STEP_SAMPLES);
    const isStep = [1, -1].some((side) => last.every((sample) => side * (sample - middle) > STEP_MS));
    // After a stumble the older pairs tell of a clock that is no more.
    if (isStep && this.samples.length > STEP_SAMPLES) this.samples = last;
  }

  get isSteady() {
    return this.samples.length >= LEAST_SAMPLES;
  }

  /** Event time less audio time, in ms. */
  get offsetMs() {
    const sorted = [...this.samples].sort((a, b) => a - b);
    const middle = sorted.length >> 1;
    return sorted.length % 2 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
  }

  /**
   * Forget the pairs seen so far and wait for fresh ones: while sounds are being loaded, or the
   * audio clock is woken, the two clocks part.
   */
  async steady() {
    this.samples = [];
    while (!this.isSteady) await new Promise((resolve) => setTimeout(resolve, EVERY_MS));
  }

  /** @param {number} timeStamp of an event, in ms @returns {number} seconds of the audio clock */
  audioTime(timeStamp) {
    return (timeStamp - this.offsetMs) / 1000;
  }
}
