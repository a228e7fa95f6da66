/**
 * From an event's own time stamp to the audio clock that schedules the click.
 *
 * The context's output timestamp pairs both clocks; the output latency is in it already. The
 * median of the last pairs is steady to about ±0.1 ms, whatever the page is busy with.
 */
const SAMPLES = 100;
const EVERY_MS = 25;
/** The clocks agree once all pairs of so long a time lie so near to their median. */
const AGREED_FOR_MS = 500;
const AGREED_MS = 3;
/** On a computer that is too busy for that, nothing waits longer. */
const MAX_WAIT_MS = 6000;
/** So many pairs in a row that lie so far from the median: the audio clock has stumbled. */
const STEP_SAMPLES = 6;
const STEP_MS = 3;

export class Clock {
  /** @param {AudioContext} context */
  constructor(context) {
    this.context = context;
    /** @type {number[]} */
    this.samples = [];
    this.lastContextTime = 0;
    window.setInterval(() => this.sample(), EVERY_MS);
    this.sample();
  }

  sample() {
    const { contextTime, performanceTime } = this.context.getOutputTimestamp();
    // The same pair twice tells of a clock that stands still.
    if (!contextTime || !performanceTime || contextTime === this.lastContextTime) return;
    this.lastContextTime = contextTime;
    this.samples.push(performanceTime - 1000 * contextTime);
    if (this.samples.length > SAMPLES) this.samples.shift();
    const middle = this.offsetMs;
    const last = this.samples.slice(-STEP_SAMPLES);
    const isStep = [1, -1].some((side) => last.every((sample) => side * (sample - middle) > STEP_MS));
    // After a stumble the older pairs tell of a clock that is no more.
    if (isStep && this.samples.length > STEP_SAMPLES) this.samples = last;
  }

  /** Have audio clock and time stamps agreed for long enough? */
  get isSteady() {
    const last = this.samples.slice(-AGREED_FOR_MS / EVERY_MS);
    if (last.length < AGREED_FOR_MS / EVERY_MS) return false;
    const middle = this.offsetMs;
    return last.every((sample) => Math.abs(sample - middle) <= AGREED_MS);
  }

  /** Event time less audio time, in ms. */
  get offsetMs() {
    const sorted = [...this.samples].sort((a, b) => a - b);
    const middle = sorted.length >> 1;
    return sorted.length % 2 ? sorted[middle] : (sorted[middle - 1] + sorted[middle]) / 2;
  }

  /**
   * Forget the pairs seen so far and wait until fresh ones agree: while sounds are being loaded, or the
   * audio clock is woken, the two clocks part. Resolves to false where they do not agree in time.
   */
  async steady() {
    this.samples = [];
    for (let waited = 0; !this.isSteady && (waited < MAX_WAIT_MS || this.samples.length === 0); waited += EVERY_MS) {
      await new Promise((resolve) => setTimeout(resolve, EVERY_MS));
    }
    return this.isSteady;
  }

  /** @param {number} timeStamp of an event, in ms @returns {number} seconds of the audio clock */
  audioTime(timeStamp) {
    return (timeStamp - this.offsetMs) / 1000;
  }
}
