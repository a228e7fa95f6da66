import { ask } from "../../signed_out.js";

/** The robot player: the server's core makes its notes, this plays them when recording begins. */
export class RobotSource {
  /** @param {string} url @param {() => string} habits @param {() => string} key @param {(input: NoteInput) => void} onInput */
  constructor(url, habits, key, onInput) {
    this.url = url;
    this.habits = habits;
    this.key = key;
    this.onInput = onInput;
    this.device = "";
    /** @type {number[]} */
    this.timers = [];
    /** @type {[number, number, number, number][]} */
    this.events = [];
  }

  async start() {
    return gettext("The robot player is ready: it plays when you record.");
  }

  /** Fetch a fresh performance; a new seed each time. */
  async prepare() {
    const seed = Math.floor(Math.random() * 1e6);
    this.device = this.habits();
    const response = await ask(`${this.url}?habits=${encodeURIComponent(this.habits())}&seed=${seed}&key=${this.key()}`);
    if (!response.ok) throw new Error(gettext("The robot player does not answer. Reload the page to try again."));
    this.events = (await response.json()).events;
  }

  /**
   * @param {number} downbeatMs when bar 1 begins, as an event's time stamp
   * @param {{rate?: number, fromMs?: number, untilMs?: number, pitches?: Set<number> | null}} how at which rate of the
   *   exercise's tempo, and which stretch and pitches of its own music
   */
  perform(downbeatMs, { rate = 1, fromMs = -Infinity, untilMs = Infinity, pitches = null } = {}) {
    for (const [timeMs, ...bytes] of this.events) {
      if (timeMs < fromMs || timeMs >= untilMs || (pitches && !pitches.has(bytes[1]))) continue;
      const timeStamp = downbeatMs + timeMs / rate;
      const wait = timeStamp - performance.now();
      this.timers.push(window.setTimeout(() => this.onInput({ timeStamp, bytes }), wait));
    }
  }

  stop() {
    this.timers.forEach((timer) => window.clearTimeout(timer));
    this.timers = [];
  }
}
