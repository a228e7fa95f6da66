/** Tap along with eight beats: the server's core says what is late all the time; kept for browser and source. */
import { ask } from "../../common/js/signed_out.js";
import { keep, read } from "./settings.js";

const BEAT_S = 0.6;
const BEFORE = 4;
const BEATS = 8;
const LEAD_S = 0.3;
const REST_MS = 700;
/** Sound that comes out so late can be heard to. */
const HIGH_OUTPUT_MS = 60;

/** @typedef {{offsetMs: number, spreadMs: number, at: string}} Measured */

export class Latency {
  /**
   * @param {HTMLElement} root @param {import("../../common/js/sound.js").Sound} sound
   * @param {import("../../common/js/playing/clock.js").Clock} clock @param {() => string} setUp source and device, in one word
   */
  constructor(root, sound, clock, setUp) {
    this.root = root;
    this.sound = sound;
    this.clock = clock;
    this.setUp = setUp;
    /** @type {number[] | null} times of taps on the audio clock, in ms; null unless somebody taps along */
    this.taps = null;
    this.find("tap-along").addEventListener("click", () => this.measure());
    this.find("latency-forget").addEventListener("click", () => this.forget());
  }

  /** @param {string} what @returns {any} */
  find(what) {
    return this.root.querySelector(`[data-${what}]`);
  }

  /** @returns {Record<string, Measured>} */
  get all() {
    return read("latency", {});
  }

  /** @returns {Measured | undefined} */
  get measured() {
    return this.all[this.setUp()];
  }

  get offsetMs() {
    return this.measured?.offsetMs ?? 0;
  }

  /** @param {NoteInput} input a note-on */
  tap(input) {
    this.taps?.push(1000 * this.clock.audioTime(input.timeStamp));
  }

  async measure() {
    const state = this.find("latency-state");
    if (this.taps) return;
    this.find("tap-along").disabled = true;
    try {
      await this.sound.open();
      if (!(await this.clock.steady())) {
        state.textContent = gettext("The sound on this computer is not steady. Close other programs, then measure again.");
        return;
      }
      const start = this.sound.context.currentTime + LEAD_S;
      const beats = Array.from({ length: BEATS }, (_, k) => start + (BEFORE + k) * BEAT_S);
      for (let k = 0; k < BEFORE + BEATS; k++) this.sound.click(start + k * BEAT_S, k % BEFORE === 0, undefined, 1);
      this.taps = [];
      state.textContent = gettext("Four clicks to listen to, then tap along with eight.");
      await new Promise((done) => setTimeout(done, 1000 * (LEAD_S + (BEFORE + BEATS) * BEAT_S) + REST_MS));
      const taps = this.taps.filter((tap) => tap > 1000 * (beats[0] - BEAT_S / 2));
      this.taps = null;
      await this.ask(taps, beats.map((beat) => 1000 * beat));
    } catch (error) {
      state.textContent = interpolate(gettext("Not measured. %(why)s"), { why: error instanceof Error ? error.message : error }, true);
    } finally {
      this.taps = null;
      this.find("tap-along").disabled = false;
    }
  }

  /** @param {number[]} taps @param {number[]} beats */
  async ask(taps, beats) {
    const state = this.find("latency-state");
    const response = await ask(this.root.dataset.latency ?? "", {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(/** @satisfies {TapsBody} */ ({ taps, beats })),
    });
    /** @type {LatencyAnswer & {errors?: Record<string, string[]>}} */
    const answer = await response.json();
    if (!response.ok) throw new Error(Object.values(answer.errors ?? {}).flat().join(" "));
    if (!answer.isSteady) {
      state.textContent = interpolate(gettext("Your taps spread by %(spreadMs)s ms, too uneven to measure. Tap along again, as evenly as you can."), answer, true);
      return;
    }
    keep("latency", { ...this.all, [this.setUp()]: { offsetMs: answer.offsetMs, spreadMs: answer.spreadMs, at: new Date().toISOString() } });
    state.textContent = interpolate(gettext("%(offsetMs)s ms, spread %(spreadMs)s ms, from %(taps)s taps. Oido will allow for this delay from now on."), answer, true);
    this.show();
  }

  forget() {
    const left = this.all;
    delete left[this.setUp()];
    keep("latency", left);
    this.find("latency-state").textContent = "";
    this.show();
  }

  /** Show what is known of the chosen source. That nothing is known is said only where the newest take was early or late
   * throughout: until then it worries students for nothing. */
  show() {
    const { measured } = this;
    const isCalledFor = !measured && document.querySelector("[data-calls-for-latency]") !== null;
    this.find("latency-forget").hidden = !measured;
    this.find("latency-call").textContent = isCalledFor ? gettext("The latency of this instrument has not been measured yet: use “Set up”.") : "";
    this.find("latency-told").textContent = measured
      ? interpolate(gettext("latency %(ms)s ms, measured %(day)s"), { ms: Math.round(measured.offsetMs), day: new Date(measured.at).toLocaleDateString(document.documentElement.lang) }, true)
      : "";
    const { context } = this.sound;
    const outputMs = 1000 * (context.outputLatency || context.baseLatency || 0);
    this.find("output-latency").textContent = !outputMs
      ? ""
      : outputMs > HIGH_OUTPUT_MS
        ? interpolate(gettext("Sound comes out of this computer %(ms)s ms late, which can be heard: use wired headphones, and close other programs that play."), { ms: Math.round(outputMs) }, true)
        : interpolate(gettext("Sound comes out of this computer after %(ms)s ms, which is fine."), { ms: Math.round(outputMs) }, true);
  }
}
