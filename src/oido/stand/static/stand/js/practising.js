/** Practising a loop: played round after round, judged each time, faster when it goes well. */
import { barIndex } from "../../common/js/bar_numbers.js";
import { describeBars } from "../../common/js/texts.js";
import { noSound } from "./hearing.js";
import { Practice } from "./practice.js";

/** So little before a loop a note may come and belong to it. */
const EARLY_MS = 150;
/** So many loops in a row that were not clean make the next one slower. */
const POOR_LOOPS = 2;
/** Loops whose charts stay. */
const CHARTS = 5;

/**
 * What practising needs of the page.
 * @typedef {{
 *   root: HTMLElement, data: StandData, find: (what: string) => any, say: (words: string) => void,
 *   machine: import("./machine.js").Machine, sound: import("../../common/js/sound.js").Sound,
 *   clock: import("../../common/js/playing/clock.js").Clock, player: import("../../common/js/player.js").Player,
 *   check: import("./input_check.js").InputCheck, how: import("./how.js").How, latency: import("./latency.js").Latency,
 *   view: import("./playing_view.js").PlayingView,
 * }} Needs
 */

export class Practising {
  /** @param {Needs} needs */
  constructor(needs) {
    this.needs = needs;
    this.slowestBpm = 0;
    this.cleanLoops = this.poorLoops = 0;
    const { sound, clock, player, data, root, find } = needs;
    this.practice = new Practice({ sound, clock, player, data, url: root.dataset.loops ?? "" }, {
      onJudged: (answer) => this.judged(answer),
      onProblem: (words) => (find("loop-news").textContent = words),
      onLoop: (time) => this.performLoop(time),
    });
  }

  /** @param {NoteInput} input */
  receive(input) {
    this.practice.receive(input);
  }

  /** Where in the music something was played; null where nothing is practised. @param {number} timeStamp */
  secondOf(timeStamp) {
    return this.practice.secondOf(timeStamp, this.needs.latency.offsetMs);
  }

  /** @param {number} ofRung 0 for none @param {number} bpm */
  async practise(ofRung = 0, bpm = this.needs.how.bpm) {
    const { data, machine, find, say, sound, check, how, latency, view, player } = this.needs;
    const attempt = machine.attempt((end) => this.ended(end));
    if (!attempt) return;
    this.cleanLoops = this.poorLoops = 0;
    const chosen = { ...how.chosen, bpm };
    // Slower than its rung a loop would not count.
    this.slowestBpm = ofRung ? bpm : 0;
    const rung = ofRung ? /** @type {HTMLElement | null} */ (document.querySelector(`#ladder [data-rung="${ofRung}"]`)) : null;
    view.open(chosen, !data.click.on, rung?.dataset.askedNotes ? rung.dataset.askedNotes.split(" ").map(Number) : null);
    try {
      say(gettext("Getting the sounds ready …"));
      await sound.ready(player.channelsOf({ what: "target", backing: data.backing }));
      await check.source?.prepare?.();
      if (!attempt.isWanted) return;
      find("loop-news").textContent = "";
      find("loop-charts").replaceChildren();
      if (!attempt.begin("practise")) return;
      await this.practice.start(chosen, { rung: ofRung || null, source: check.kind, latencyMs: () => latency.offsetMs, isWithoutClick: !data.click.on, countInBars: how.practiceCountIn });
      if (!attempt.isCurrent) return;
      const words = { rung: rung?.dataset.name ?? "", bars: describeBars(chosen.from, chosen.to), bpm };
      say(interpolate(rung ? gettext("Practising “%(rung)s”, %(bars)s, at %(bpm)s. Press Space to stop.") : gettext("Practising %(bars)s at %(bpm)s. Press Space to stop."), words, true));
    } catch (error) {
      if (attempt.fail()) say(noSound(error));
    }
  }

  /** It is over, or was given up. @param {import("./machine.js").Happening} how */
  ended(how) {
    const { check, say, view } = this.needs;
    this.practice.stop();
    view.close();
    if (check.source?.perform) check.source.stop();
    if (how === "stop") say("");
  }

  /** The robot player plays each loop, what is asked of a player. @param {number} time on the audio clock */
  performLoop(time) {
    const { root, data, clock, player, check } = this.needs;
    const { chosen } = this.practice;
    root.dataset.loopMs = String(1000 * time + clock.offsetMs);
    if (!check.source?.perform || !chosen) return;
    const rate = player.order.rate;
    const [first, last] = [data.bars[barIndex(data.bars, chosen.from)], data.bars[barIndex(data.bars, chosen.to)]];
    const mine = data.target.filter((_, k) => chosen.mine.length === 0 || chosen.mine.includes(data.voices[k])).map(([, , pitch]) => pitch);
    check.source.perform(1000 * time + clock.offsetMs - (1000 * first.start) / rate, { rate, fromMs: 1000 * first.start - EARLY_MS, untilMs: 1000 * last.end, pitches: data.target.length > 0 ? new Set(mine) : null });
  }

  /** @param {LoopAnswer} answer */
  judged(answer) {
    const { find, how, say } = this.needs;
    const message = answer.isClean ? gettext("Clean: %(points)s points.") : gettext("%(points)s points; %(needed)s needed.");
    let words = interpolate(message, answer, true);
    if (answer.inTempo === false) words += ` ${gettext("Slower than this rung’s tempo.")}`;
    else if (answer.isPassed) words += ` ${gettext("Rung passed.")}`;
    else if (answer.row) words += ` ${interpolate(gettext("%(row)s of %(neededLoops)s in a row."), answer, true)}`;
    find("loop-news").textContent = answer.earNote && !answer.isClean ? `${words} ${answer.earNote}` : words;
    if (answer.chart) {
      // The last loops one beside the other: better or worse is seen without a word.
      const charts = find("loop-charts");
      charts.insertAdjacentHTML("beforeend", answer.chart);
      while (charts.children.length > CHARTS) charts.firstElementChild?.remove();
    }
    if (answer.ladder) {
      const ladder = document.getElementById("ladder");
      if (ladder) ladder.outerHTML = answer.ladder;
    }
    this.cleanLoops = answer.isClean ? this.cleanLoops + 1 : 0;
    this.poorLoops = answer.isClean ? 0 : this.poorLoops + 1;
    const by = Number(find("raise-by").value);
    if (!how.isOn("raise")) return;
    if (this.cleanLoops >= Number(find("raise-after").value)) this.changeTempo(by, gettext("Clean. Next loop at %(bpm)s."));
    else if (this.poorLoops >= POOR_LOOPS) this.changeTempo(-by, gettext("A little slower. Next loop at %(bpm)s."));
  }

  /** @param {number} by beats a minute @param {string} words */
  changeTempo(by, words) {
    const { how, say } = this.needs;
    const before = how.bpm;
    this.cleanLoops = this.poorLoops = 0;
    how.setTempo(Math.max(this.slowestBpm, Math.round(before + by)));
    if (how.bpm !== before) say(interpolate(words, { bpm: how.bpm }, true));
  }
}
