/** Counting in and recording: a take of the whole part, or a pass into one. */
import { ask } from "../../common/js/signed_out.js";
import { CHANNEL_TAKE, channelOf } from "../../common/js/sound.js";
import { leftOf, passTold, soundsAlong } from "./along.js";
import { barsAt } from "./how.js";
import { Parcels } from "./parcels.js";
import { Recorder } from "./recorder.js";

/** Without a click the robot player begins when it likes. */
const ROBOT_WAITS_MS = 500;
/** The click of an exercise that asks for one sounds at least so loud while recording. */
const OWN_CLICK_LEAST = 0.4;

/** @typedef {import("./parcels.js").Into} Into */

export class Recording {
  /** @param {StandParts} parts */
  constructor(parts) {
    this.parts = parts;
    /** @type {Recorder | null} */
    this.recorder = null;
  }

  /** @param {NoteInput} input */
  receive(input) {
    this.recorder?.receive(input);
  }

  stop() {
    this.recorder?.stop();
  }

  /** Record a take, or a pass into one. @param {Into | null} into */
  async record(into = null) {
    const { root, data, machine, find, say, why, sound, clock, cursor, check, mixer, how, pads, latency, outbox, hearing } = this.parts;
    if (machine.isRecording || machine.state === "preparing") return;
    if (!into && document.querySelector("[data-no-more-takes]")) return say(gettext("All takes that this exercise allows are recorded. Hand one in."));
    if (!into && data.hearsFirst) return say(gettext("Listen to it first, then record."));
    hearing.stop();
    machine.tell("prepare");
    try {
      say(gettext("Getting the sounds ready …"));
      await sound.open();
      await check.source?.prepare?.();
      const before = into ? await this.takeSoFar(into) : null;
      const bpm = before ? before.bpm : how.bpm;
      const rate = bpm / data.bpm;
      const rounds = !into && data.passes > 1 && data.click.on && how.chosen.loop ? data.passes : 1;
      // A take is of the whole part and of all hands; passes are of what is chosen.
      const isPart = into !== null || rounds > 1;
      const chosen = isPart ? how.chosen : { ...how.chosen, mine: [] };
      const bars = barsAt(data.bars.slice(isPart ? chosen.from - 1 : 0, isPart ? chosen.to : undefined), rate);
      const parcels = new Parcels({ root, data, check, pads, latency, outbox }, { into, bpm, bars, chosen });
      const recorder = new Recorder(sound, clock, bars, data.countInBars, {
        onBeat: (beat) => this.showBeat(beat),
        onPosition: (second) => cursor.show(second * rate),
        onRound: (events, number) => this.roundEnded(parcels, events, number),
        onEnd: (events, wasWhole) => this.ended(parcels, events, wasWhole),
      });
      this.recorder = recorder;
      recorder.click = data.click;
      recorder.clickVolume = Math.max(OWN_CLICK_LEAST, mixer.volume("click"));
      recorder.rounds = rounds;
      recorder.along = soundsAlong(data, chosen, rate, before ? leftOf(before.take, into, bars) : []);
      if (!data.click.on) recorder.freeFrom = (data.target[0]?.[0] ?? 0) / rate;
      find("warning").textContent = check.hasAnswered ? "" : gettext("Nothing has arrived from this source yet. If the keys stay silent, stop with Space and see what to try at the top.");
      find("loop-news").textContent = into ? passTold(into, chosen) : "";
      say(data.click.on ? gettext("Count-in") : gettext("Play: the first note begins the take. Space ends it."));
      machine.tell(data.click.on ? "countIn" : "begin");
      const downbeatMs = await recorder.start();
      parcels.keep(recorder);
      root.dataset.downbeatMs = String(downbeatMs);
      const stretch = isPart ? { fromMs: 1000 * bars[0].start * rate, untilMs: 1000 * bars[bars.length - 1].end * rate } : {};
      check.source?.perform?.(Number.isFinite(downbeatMs) ? downbeatMs : performance.now() + ROBOT_WAITS_MS, { rate, ...stretch });
    } catch (error) {
      machine.tell("fail");
      say(interpolate(gettext("Could not record: %(why)s"), { why: why(error) }, true));
    }
  }

  /** What the take that is laid into sounds like, so far. @param {Into} into @returns {Promise<{take: PlainNote[], bpm: number}>} */
  async takeSoFar(into) {
    const row = this.parts.root.querySelector(`[data-take="${into.takeId}"]`);
    const response = await ask(/** @type {HTMLElement} */ (row).dataset.notes ?? "");
    if (!response.ok) throw new Error(gettext("this take cannot be heard now"));
    return response.json();
  }

  /** @param {Beat} beat */
  showBeat(beat) {
    const { beats, data, machine, say } = this.parts;
    if (beats.children.length !== beat.beats) {
      beats.replaceChildren(...Array.from({ length: beat.beats }, () => document.createElement("span")));
    }
    [...beats.children].forEach((dot, k) => {
      dot.classList.toggle("is-now", k === beat.beat - 1);
      dot.classList.toggle("is-first", k === 0);
    });
    if (beat.isCountIn) return say(interpolate(gettext("Count-in: %(beat)s"), beat, true));
    machine.tell("begin");
    if (beat.beat === 1) say(interpolate(gettext("Recording, bar %(bar)s of %(last)s"), { bar: beat.bar, last: data.bars.length }, true));
  }

  /** @param {Parcels} parcels @param {RawEvent[]} events @param {number} number */
  roundEnded(parcels, events, number) {
    const { data, say } = this.parts;
    if (!parcels.send(events)) return;
    say(interpolate(gettext("Pass %(n)s is recorded; play the next one over it."), { n: number + 1 }, true));
    this.recorder?.along.push({ notes: parcels.heard(events), channel: channelOf(CHANNEL_TAKE, data.hasLanes) });
  }

  /** @param {Parcels} parcels @param {RawEvent[]} events @param {boolean} wasWhole */
  ended(parcels, events, wasWhole) {
    const { root, beats, cursor, check, machine, say } = this.parts;
    check.source?.perform && check.source.stop();
    delete root.dataset.downbeatMs;
    beats.replaceChildren();
    cursor.hide();
    this.tellStumble();
    if (parcels.send(events)) {
      machine.tell("kept");
      say(gettext("Sending the take …"));
    } else {
      machine.tell(parcels.sent === 0 ? "nothing" : "kept");
      if (parcels.sent === 0) say(wasWhole ? gettext("No notes arrived, so nothing was saved. Check the input and record again.") : gettext("Stopped; nothing was saved."));
    }
    parcels.stopKeeping();
  }

  tellStumble() {
    const stumbled = this.recorder?.disturbanceMs ?? 0;
    this.parts.find("warning").textContent = stumbled
      ? interpolate(
          gettext(
            "The sound of this computer stumbled by %(ms)s ms while you played, so timing may look worse than it was. Close what is busy and record again.",
          ),
          { ms: Math.round(stumbled) },
          true,
        )
      : "";
  }
}
