/**
 * Practice: bars played again and again, each loop judged by the server's core; nothing is recorded.
 */
import { barIndex } from "../../common/js/bar_numbers.js";
import { ask } from "../../common/js/signed_out.js";

/** Notes so little after a loop may still belong to it. */
const AFTER_MS = 200;
const BEFORE_S = 1;
const COUNT_IN_LEAD_S = 0.3;

export class Practice {
  /**
   * @param {{sound: import("../../common/js/sound.js").Sound, clock: import("../../common/js/playing/clock.js").Clock, player: import("../../common/js/player.js").Player, data: StandData, url: string}} with_
   * @param {{onJudged(answer: LoopAnswer): void, onProblem(words: string): void, onLoop(time: number): void}} listeners
   */
  constructor({ sound, clock, player, data, url }, listeners) {
    this.sound = sound;
    this.clock = clock;
    this.player = player;
    this.data = data;
    this.url = url;
    /** @type {Chosen | null} */
    this.chosen = null;
    /** @type {{rung: number | null, source: LoopBody["source"], latencyMs: () => number, isWithoutClick: boolean, countInBars: number} | null} */
    this.how = null;
    this.listeners = listeners;
    this.isOn = false;
    /** @type {NoteInput[]} */
    this.played = [];
    /** @type {{start: number, bpm: number} | null} the loop that is being played, on the audio clock */
    this.current = null;
  }

  /**
   * @param {Chosen} chosen @param {{rung: number | null, source: LoopBody["source"], latencyMs: () => number, isWithoutClick: boolean, countInBars: number}} how
   */
  async start(chosen, how) {
    this.chosen = chosen;
    this.how = how;
    this.played = [];
    this.current = null;
    this.isOn = true;
    await this.sound.open();
    await this.clock.steady();
    // Stopped while it got ready.
    if (!this.isOn || this.chosen !== chosen) return;
    const rate = chosen.bpm / this.data.bpm;
    const first = this.data.bars[barIndex(this.data.bars, chosen.from)];
    const beats = first.beats.length;
    const beatS = (first.end - first.start) / beats / rate;
    const counted = beats * how.countInBars;
    const begin = this.sound.context.currentTime + COUNT_IN_LEAD_S + counted * beatS;
    await this.player.play(
      { what: "target", from: chosen.from, to: chosen.to, rate, loop: true, click: !how.isWithoutClick, silent: chosen.silent, backing: this.data.backing },
      begin,
    );
    for (let k = 0; k < counted; k++) this.sound.click(begin - (counted - k) * beatS, k % beats === 0, this.data.click);
  }

  /** @param {number} bpm from the next loop on */
  changeTempo(bpm) {
    if (!this.isOn || !this.chosen) return;
    this.chosen = { ...this.chosen, bpm };
    this.player.changeRate(bpm / this.data.bpm);
  }

  /** A loop is about to begin. @param {number} time on the audio clock */
  loopBegins(time) {
    if (!this.isOn) return;
    const before = this.current;
    this.current = { start: time, bpm: this.player.order.rate * this.data.bpm };
    this.listeners.onLoop(time);
    if (!before) return;
    const wait = 1000 * (time - this.sound.context.currentTime) + AFTER_MS;
    window.setTimeout(() => this.isOn && this.judge(before), wait);
  }

  /** Where in the loop something was played, in seconds of the music as it is set, by its own time and without the
   * latency; null where no loop is played against the click.
   * @param {number} timeStamp in ms @param {number} latencyMs */
  secondOf(timeStamp, latencyMs) {
    if (!this.isOn || !this.current || !this.chosen || this.how?.isWithoutClick) return null;
    const played = this.clock.audioTime(timeStamp - latencyMs) - this.current.start;
    return this.data.bars[barIndex(this.data.bars, this.chosen.from)].start + (played * this.current.bpm) / this.data.bpm;
  }

  /** @param {NoteInput} input */
  receive({ timeStamp, bytes }) {
    if (this.isOn) this.played.push({ timeStamp, bytes });
  }

  /** @param {{start: number, bpm: number}} loop */
  async judge(loop) {
    const at = (/** @type {number} */ timeStamp) => this.clock.audioTime(timeStamp);
    this.played = this.played.filter(({ timeStamp }) => at(timeStamp) > loop.start - BEFORE_S);
    const { chosen, how } = this;
    if (!chosen || !how) return;
    const isHands = !this.data.hasLanes;
    try {
      const response = await ask(this.url, {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(/** @satisfies {LoopBody} */ ({
          rung: how.rung, first_bar: chosen.from, last_bar: chosen.to,
          hand: isHands ? (chosen.mine[0] ?? "") : "", lanes: isHands ? [] : chosen.mine,
          bpm: Math.round(loop.bpm * 100) / 100, fifths: this.data.fifths, latency_ms: how.latencyMs(), source: how.source,
          events: this.played.map(({ timeStamp, bytes }) => [1000 * (at(timeStamp) - loop.start), ...bytes]),
        })),
      });
      const answer = await response.json();
      if (!response.ok) throw new Error(Object.values(answer.errors).flat().join(" "));
      if (this.isOn) this.listeners.onJudged(answer);
    } catch (error) {
      if (this.isOn) this.listeners.onProblem(interpolate(gettext("This loop could not be judged. %(why)s"), { why: error instanceof Error ? error.message : error }, true));
    }
  }

  stop() {
    this.isOn = false;
    this.current = null;
    this.player.stop();
  }
}
