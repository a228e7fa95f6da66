/** What the typing keys reach of the part, said before anything is recorded; and what reaches more, one press away. */
import { firstBar, lastBar } from "../../common/js/bar_numbers.js";
import { ownNotes } from "./how.js";

export class Reach {
  /** @param {HTMLElement} place @param {StandData} data @param {import("./input_check.js").InputCheck} check */
  constructor(place, data, check) {
    this.place = place;
    this.data = data;
    this.check = check;
  }

  /** Notes that the player plays, and how many of them are on a key. @param {Map<string, number>} layout @param {Chosen} chosen */
  counted(layout, chosen) {
    const own = ownNotes(this.data, chosen);
    const keys = new Set(layout.values());
    return { of: own.length, reached: own.filter(([, , pitch]) => keys.has(pitch)).length };
  }

  /** @param {Map<string, number>} layout @param {Chosen} chosen @param {number} voices how many hands the part has */
  show(layout, chosen, voices) {
    const { data, check } = this;
    const { reach } = data;
    this.place.replaceChildren();
    if (!reach || !check.row.isTyped) return;
    const { of, reached } = this.counted(layout, chosen);
    if (reached === of) return;
    this.place.append(interpolate(gettext("Typing keys reach %(reached)s of these %(of)s notes."), { reached, of }, true), " ");
    const { source } = check;
    const now = this.counted(layout, { ...chosen, from: firstBar(data.bars), to: lastBar(data.bars), mine: [] }).reached;
    if (reach.from_best > now) {
      const name = check.listeners.name(reach.best);
      this.offer(interpolate(gettext("Home note %(name)s: %(count)s of %(of)s"), { name, count: reach.from_best, of: reach.notes }, true), () => source.homeAt(reach.best));
    }
    if (reach.by_two_hands > Math.max(now, reach.from_best)) {
      this.offer(interpolate(gettext("Layout for two hands: %(count)s of %(of)s"), { count: reach.by_two_hands, of: reach.notes }, true), () => source.lay(new Map(Object.entries(reach.layout))));
    }
    if (reach.easier) this.place.append(interpolate(gettext("These keys reach all of “%(title)s”, an easier version: ask your teacher for it."), { title: reach.easier }, true), " ");
    if (voices > 1 && data.passes > 1) {
      this.place.append(interpolate(gettext("Or record one hand after the other: a take may have %(n)s passes."), { n: data.passes }, true));
    }
  }

  /** @param {string} words @param {() => void} act */
  offer(words, act) {
    const button = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: words });
    button.addEventListener("click", () => {
      act();
      button.blur();
    });
    this.place.append(button, " ");
  }
}
