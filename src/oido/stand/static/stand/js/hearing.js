/** Hearing: the part, or a take with its part. */
import { firstBar, lastBar } from "../../common/js/bar_numbers.js";
import { ask } from "../../common/js/signed_out.js";
import { notesAt } from "./how.js";

/**
 * What hearing needs of the page.
 * @typedef {{
 *   data: StandData, machine: import("./machine.js").Machine, say: (words: string) => void,
 *   sound: import("../../common/js/sound.js").Sound, player: import("../../common/js/player.js").Player,
 *   cursor: import("../../common/js/cursor.js").Cursor, how: import("./how.js").How, byEar: { hear(): Promise<void> },
 * }} Needs
 */

export class Hearing {
  /** @param {Needs} needs */
  constructor(needs) {
    this.needs = needs;
  }

  /** @param {"target" | "take" | "both"} what @param {Playing} [of] a take with its part, at its own tempo */
  async hear(what, of = this.needs.data) {
    const { data, machine, say, sound, cursor, player, how, byEar } = this.needs;
    if (what === "target" && data.byEar) return byEar.hear();
    const attempt = machine.attempt((end) => this.ended(end));
    if (!attempt) return;
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
      await player.play({ what, from: isPart ? chosen.from : firstBar(data.bars), to: isPart ? chosen.to : lastBar(data.bars), rate, loop: isPart && chosen.loop, click: false, silent, backing });
      if (!attempt.begin("hear")) return;
      say("");
      if (what === "target") this.isHeard();
    } catch (error) {
      if (attempt.fail()) say(noSound(error));
    }
  }

  /** It is over, or was given up. @param {import("./machine.js").Happening} how */
  ended(how) {
    const { data, say, player, cursor } = this.needs;
    player.stop();
    player.data = data;
    cursor.bars = data.bars;
    if (how === "stop") say("");
  }

  /** It was heard: what is to be heard first may be recorded now. */
  isHeard() {
    const { data } = this.needs;
    if (!data.listenFirst) return;
    ask(data.listenFirst.url, { method: "POST" });
    data.listenFirst = null;
  }

  /** A take of the tray. @param {HTMLElement} row @param {"take" | "both"} what */
  async hearTake(row, what) {
    const response = await ask(row.dataset.notes ?? "").catch(() => null);
    if (!response?.ok) return this.needs.say(gettext("This take cannot be heard now."));
    return this.hear(what, await response.json());
  }
}

/** @param {unknown} error */
export function noSound(error) {
  return interpolate(gettext("No sound (%(why)s). Reload the page to try again."), { why: error instanceof Error ? error.message : String(error) }, true);
}
