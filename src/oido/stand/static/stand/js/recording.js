/** Counting in and recording: a take of the whole part, or a pass into one. */
import { barsFrom, firstBar, lastBar } from "../../common/js/bar_numbers.js";
import { ask } from "../../common/js/signed_out.js";
import { CHANNEL_TAKE, channelOf } from "../../common/js/sound.js";
import { leftOf, describePass, soundsAlong } from "./along.js";
import { barsAt } from "./how.js";
import { Parcels } from "./parcels.js";
import { Recorder } from "../../common/js/playing/recorder.js";

/** Without a click the robot player begins when it likes. */
const ROBOT_WAITS_MS = 500;
/** So much of a beat after a click something is said. */
const AFTER_CLICK = 0.35;
/** The click of an exercise that asks for one sounds at least so loud while recording. */
const MIN_OWN_CLICK = 0.4;

/** @typedef {import("./parcels.js").Into} Into */

/**
 * What recording needs of the page.
 * @typedef {{
 *   root: HTMLElement, data: StandData, find: (what: string) => any, say: (words: string) => void,
 *   machine: import("./machine.js").Machine, sound: import("../../common/js/sound.js").Sound,
 *   clock: import("../../common/js/playing/clock.js").Clock, cursor: import("../../common/js/cursor.js").Cursor,
 *   check: import("./input_check.js").InputCheck, mixer: import("./mixer.js").Mixer, how: import("./how.js").How,
 *   pads: import("./pads.js").Pads, latency: import("./latency.js").Latency, outbox: import("./outbox_line.js").Sink,
 *   view: import("./playing_view.js").PlayingView,
 * }} Needs
 */

export class Recording {
  /** @param {Needs} needs */
  constructor(needs) {
    this.needs = needs;
    /** @type {Recorder | null} */
    this.recorder = null;
    /** Tempo of the recording over the tempo that is set. */
    this.rate = 1;
    /** It was said that nothing has come from the source yet. */
    this.isUnheard = false;
    /** @type {Into | null} the take into which a pass is being recorded */
    this.into = null;
    /** @type {{parcels: Parcels, events: RawEvent[]} | null} a start that was broken off, which may be kept */
    this.broken = null;
    needs.find("redo-round").addEventListener("click", () => this.redo());
    needs.find("keep-broken").addEventListener("click", () => this.keepBroken());
  }

  /** @param {NoteInput} input */
  receive(input) {
    if (this.isUnheard) this.needs.find("warning").textContent = "";
    this.isUnheard = false;
    this.recorder?.receive(input);
  }

  /** Where in the music something was played; null where nothing is recorded. @param {number} timeStamp */
  secondOf(timeStamp) {
    const second = this.recorder?.secondOf(timeStamp, this.needs.latency.offsetMs) ?? null;
    return second === null ? null : second * this.rate;
  }

  /** @param {Ending} ending */
  stop(ending = "stopped") {
    this.recorder?.stop(ending);
  }

  /** Once more from the count-in; what was begun is a take if it went far enough. */
  again() {
    if (!this.needs.machine.isRecording) return;
    const into = this.into;
    this.stop("again");
    this.record(into);
  }

  /** What was played is not wanted. */
  drop() {
    if (this.recorder) this.recorder.events = [];
    this.stop();
  }

  /** What was broken off is kept after all. */
  keepBroken() {
    const { machine, say } = this.needs;
    const broken = this.broken;
    this.forgetBroken();
    if (!broken || !broken.parcels.send(broken.events, "stopped")) return;
    if (machine.state === "idle") say(gettext("Sending the take …"));
  }

  forgetBroken() {
    this.broken = null;
    this.needs.find("keep-broken").hidden = true;
  }

  /** Record a take, or a pass into one. @param {Into | null} into */
  async record(into = null) {
    const { root, data, machine, find, say, sound, clock, cursor, check, mixer, how, pads, latency, outbox, view } = this.needs;
    if (machine.isRecording) return;
    if (!into && document.querySelector("[data-no-more-takes]")) return say(gettext("All takes that this exercise allows are recorded. Hand one in."));
    if (!into && data.listenFirst) return say(gettext("Listen to it first, then record."));
    const attempt = machine.attempt((end) => this.gaveUp(end));
    if (!attempt) return;
    this.recorder = null;
    this.forgetBroken();
    this.into = into;
    const rounds = !into && data.passes > 1 && data.click.on && how.chosen.loop ? data.passes : 1;
    // A take is of the whole part and of all hands; passes are of what is chosen.
    const isPart = into !== null || rounds > 1;
    const chosen = isPart ? how.chosen : { ...how.chosen, from: firstBar(data.bars), to: lastBar(data.bars), mine: [] };
    // At once, and not when all is ready: what was pressed is answered, and later nothing moves.
    view.open(chosen, !data.click.on);
    try {
      say(gettext("Getting the sounds ready …"));
      await sound.open();
      await check.source?.prepare?.();
      const before = into ? await this.takeSoFar(into) : null;
      if (!attempt.isWanted) return;
      const bpm = before ? before.bpm : how.bpm;
      const rate = bpm / data.bpm;
      const bars = barsAt(isPart ? barsFrom(data.bars, chosen.from, chosen.to) : data.bars, rate);
      const parcels = new Parcels({ root, data, check, pads, latency, outbox }, { into, bpm, bars, chosen });
      const recorder = new Recorder(sound, clock, bars, data.countInBars, {
        onBeat: (beat) => this.showBeat(beat),
        onPosition: (second) => cursor.show(second * rate),
        onRound: (events) => this.roundEnded(parcels, events),
        onEnd: (events, ending) => this.ended(parcels, events, ending),
      });
      this.recorder = recorder;
      this.rate = rate;
      recorder.click = data.click;
      recorder.clickVolume = Math.max(MIN_OWN_CLICK, mixer.volume("click"));
      recorder.rounds = rounds;
      recorder.along = soundsAlong(data, chosen, rate, before ? leftOf(before.take, into, bars) : []);
      if (!data.click.on) recorder.freeFrom = (data.target[0]?.[0] ?? 0) / rate;
      this.isUnheard = !check.hasAnswered;
      find("warning").textContent = check.hasAnswered ? "" : gettext("Nothing has arrived from this source yet. If the keys stay silent, stop with Space, then look above the music for what to try.");
      find("loop-news").textContent = into ? describePass(into, chosen) : "";
      say(gettext("Getting ready …"));
      find("redo-round").hidden = rounds === 1;
      this.tellLanes(0);
      if (!attempt.begin(data.click.on ? "countIn" : "begin")) return;
      const downbeatMs = await recorder.start();
      // Stopped before it had begun.
      if (!attempt.isCurrent || !recorder.isRecording) return;
      // Only now: what was played while the clocks were compared would be lost.
      say(data.click.on ? gettext("Count-in") : gettext("Play: the first note begins the take. Space ends it."));
      parcels.keep(recorder);
      root.dataset.downbeatMs = String(downbeatMs);
      const stretch = isPart ? { fromMs: 1000 * bars[0].start * rate, untilMs: 1000 * bars[bars.length - 1].end * rate } : {};
      check.source?.perform?.(Number.isFinite(downbeatMs) ? downbeatMs : performance.now() + ROBOT_WAITS_MS, { rate, ...stretch });
    } catch (error) {
      const why = error instanceof Error ? error.message : String(error);
      if (attempt.fail()) say(interpolate(gettext("Could not record. %(why)s"), { why }, true));
    }
  }

  /** It is over; where it did not come to a recording, or could not go on, nothing of it stays.
   * @param {import("./machine.js").Happening} how */
  gaveUp(how) {
    if (how === "kept" || how === "nothing") return;
    this.recorder?.abandon();
    this.needs.view.close();
    this.needs.find("redo-round").hidden = true;
    if (how === "stop") this.needs.say("");
  }

  /** What the take that is laid into sounds like, so far. @param {Into} into @returns {Promise<{take: PlainNote[], bpm: number}>} */
  async takeSoFar(into) {
    const row = this.needs.root.querySelector(`[data-take="${into.takeId}"]`);
    const response = await ask(/** @type {HTMLElement | null} */ (row)?.dataset.notes ?? "");
    if (!response.ok) throw new Error(gettext("This take cannot be played now."));
    return response.json();
  }

  /** @param {Beat} beat */
  showBeat(beat) {
    const { data, machine, say } = this.needs;
    const speaks = this.needs.how.speaks;
    // The count-in was announced when it began; each of its beats is, where each beat is.
    if (beat.isCountIn) return speaks === "beats" ? this.announce(interpolate(gettext("Count-in: %(beat)s"), beat, true)) : undefined;
    machine.tell("begin");
    if (speaks === "nothing") return say(pgettext("state", "Recording"));
    if (speaks === "beats" && beat.beat > 1) return this.announce(String(beat.beat));
    if (beat.beat === 1 && beat.bar === 0) this.announce(gettext("Recording the pick-up"));
    else if (beat.beat === 1) this.announce(interpolate(gettext("Recording, bar %(bar)s of %(last)s"), { bar: beat.bar, last: lastBar(data.bars) }, true));
  }

  /** Say something between two clicks, so that the voice does not begin over one. @param {string} words */
  announce(words) {
    const bar = this.recorder?.bars[0];
    const beatMs = bar ? (1000 * (bar.end - bar.start)) / bar.beats.length : 0;
    const { recorder } = this;
    window.setTimeout(() => recorder?.isRecording && recorder === this.recorder && this.needs.say(words), beatMs * AFTER_CLICK);
  }

  /** Of a kit that is laid pass by pass: which lane now, and which next. @param {number} done passes that are recorded */
  tellLanes(done) {
    const { data, find } = this.needs;
    const lanes = data.pads.map((pad) => pad.name);
    const isLaid = data.hasLanes && (this.recorder?.rounds ?? 1) > 1 && lanes.length > 1;
    const [now, next] = [lanes[done], lanes[done + 1]];
    const words = next ? gettext("Now: %(now)s. Next: %(next)s.") : gettext("Now: %(now)s, the last one.");
    find("lane-now").textContent = isLaid && now ? interpolate(words, { now, next }, true) : "";
  }

  /** The round that is being played once more. */
  redo() {
    this.recorder?.redoRound();
    this.needs.say(gettext("This round will not count; play it again next time round."));
  }

  /** @param {Parcels} parcels @param {RawEvent[]} events */
  roundEnded(parcels, events) {
    const { data, say } = this.needs;
    if (!parcels.send(events)) return say(gettext("Nothing was played in that round; it is still open."));
    say(interpolate(gettext("Pass %(n)s is recorded; play the next one over it."), { n: parcels.sent }, true));
    this.tellLanes(parcels.sent);
    this.recorder?.along.push({ notes: parcels.heard(events), channel: channelOf(CHANNEL_TAKE, data.hasLanes) });
  }

  /** @param {Parcels} parcels @param {RawEvent[]} events @param {Ending} ending */
  ended(parcels, events, ending) {
    const { root, data, cursor, check, find, machine, say } = this.needs;
    check.source?.perform && check.source.stop();
    delete root.dataset.downbeatMs;
    cursor.hide();
    this.tellStumble();
    find("redo-round").hidden = true;
    find("lane-now").textContent = "";
    const bars = this.recorder?.barsPlayed ?? 0;
    const isBroken = (ending === "stopped" || ending === "again") && !this.into && parcels.sent === 0 && bars < data.countsAfter;
    if (isBroken && events.length > 0) {
      machine.tell("nothing");
      this.broken = { parcels, events };
      find("keep-broken").hidden = false;
      say(interpolate(gettext("Stopped in bar %(bar)s: not saved, and not counted as an attempt."), { bar: bars + 1 }, true));
    } else if (parcels.send(events, ending)) {
      machine.tell("kept");
      say(gettext("Sending the take …"));
    } else {
      machine.tell(parcels.sent === 0 ? "nothing" : "kept");
      // The last round was silent: what was recorded before it is on its way.
      if (parcels.sent > 0) say(interpolate(ngettext("One pass is recorded; the last round was silent.", "%(n)s passes are recorded; the last round was silent.", parcels.sent), { n: parcels.sent }, true));
      else if (ending === "itself") say(gettext("No notes arrived, so nothing was saved. Check the input and record again."));
      else say(gettext("Stopped; nothing was saved."));
    }
    parcels.stopKeeping();
  }

  tellStumble() {
    const stumbled = this.recorder?.disturbanceMs ?? 0;
    if (this.recorder && !this.recorder.isSteady) {
      this.needs.find("warning").textContent = gettext("The sound of this computer ran unevenly when the recording began, so all notes may look early or late. Close other programs and record again.");
      return;
    }
    this.needs.find("warning").textContent = stumbled
      ? gettext("Your computer’s sound dropped out while you played, so timing may look worse than it was. Close other programs and record again.")
      : "";
  }
}
