/** Hearing: the part, or a take with its part. */
import { ask } from "../../common/js/signed_out.js";
import { ByEar } from "./by_ear.js";
import { notesAt } from "./how.js";
import { testSound } from "./sound_test.js";

export class Hearing {
  /** @param {StandParts} parts */
  constructor(parts) {
    this.parts = parts;
    this.byEar = new ByEar(parts);
  }

  /** @param {"target" | "take" | "both"} what @param {Playing} [of] a take with its part, at its own tempo */
  async hear(what, of = this.parts.data) {
    const { data, machine, say, why, sound, cursor, player, how, practising } = this.parts;
    if (what === "target" && data.byEar) {
      if (machine.isSounding) this.stop();
      return this.byEar.hear();
    }
    if (!machine.tell("prepare")) return;
    const { preparation } = machine;
    practising.practice.isOn = false;
    try {
      say(sound.isReady ? "" : gettext("Getting the sounds ready …"));
      player.data = { ...data, ...of };
      const chosen = how.chosen;
      const isPart = of === data;
      const rate = isPart ? chosen.bpm / data.bpm : 1;
      const ownRate = isPart ? 1 : /** @type {any} */ (of).bpm / data.bpm;
      const backing = data.backing ? { ...data.backing, notes: notesAt(data.backing.notes, ownRate) } : null;
      const silent = isPart && chosen.mine.length > 0 ? chosen.silent : [];
      cursor.bars = player.data.bars;
      await player.play({ what, from: isPart ? chosen.from : 1, to: isPart ? chosen.to : data.bars.length, rate, loop: isPart && chosen.loop, click: false, silent, backing });
      if (!machine.isPreparing(preparation)) return;
      machine.tell("hear");
      say("");
      if (what === "target") this.isHeard();
    } catch (error) {
      if (!machine.isPreparing(preparation)) return;
      machine.tell("fail");
      say(interpolate(gettext("No sound (%(why)s). Reload the page to try again."), { why: why(error) }, true));
    }
  }

  /** It was heard: what is to be heard first may be recorded now. */
  isHeard() {
    const { data } = this.parts;
    if (!data.hearsFirst) return;
    ask(data.hearsFirst.url, { method: "POST" });
    data.hearsFirst = null;
  }

  /** A take of the tray. @param {HTMLElement} row @param {"take" | "both"} what */
  async hearTake(row, what) {
    const response = await ask(row.dataset.notes ?? "");
    if (!response.ok) return this.parts.say(gettext("This take cannot be heard now."));
    return this.hear(what, await response.json());
  }

  /** Whatever sounds. */
  stop() {
    const { data, machine, say, cursor, player, check, practising } = this.parts;
    if (practising.practice.isOn) {
      check.source?.perform && check.source.stop();
      say("");
    }
    practising.practice.stop();
    this.byEar.stop();
    player.stop();
    player.data = data;
    cursor.bars = data.bars;
    if (machine.isSounding || machine.state === "preparing") {
      machine.tell("stop");
      say("");
    }
  }

  async test() {
    const { data, why, sound, check, latency, find } = this.parts;
    try {
      await testSound(sound, data);
      check.say(gettext("Three notes were just played. Not heard? Turn this computer up, check which speakers or headphones it plays on, and check under “Set up” that nothing is muted."));
      latency.show();
    } catch (error) {
      check.say(interpolate(gettext("No sound (%(why)s). Reload the page to try again."), { why: why(error) }, true));
    }
    find("sound-test").blur();
  }
}
