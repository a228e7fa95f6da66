/** The music in words: stepped by note, beat, bar and hand; each step is said, and sounds. */
import { ask } from "../../common/js/signed_out.js";
import { CHANNEL_PART, NOTE_OFF, NOTE_ON, channelOf } from "../../common/js/sound.js";

const SOUNDS_S = 0.6;
const LOUDNESS = 80;

/** @typedef {{second: number, bar: number, beat: number, hand: string, place: string, said: string, pitches: number[]}} Told */

/**
 * Where a step leads: the number of a moment; where it cannot go further, the one it was at.
 * @param {Told[]} told @param {number} at -1 before the first @param {"note" | "beat" | "bar"} by @param {1 | -1} way @param {string} hand empty for both
 */
export function stepped(told, at, by, way, hand) {
  const fits = (/** @type {Told} */ one) => !hand || !one.hand || one.hand === hand;
  const here = told[at];
  for (let k = at + way; k >= 0 && k < told.length; k += way) {
    const one = told[k];
    if (!fits(one)) continue;
    if (!here || by === "note") return k;
    const isOther = by === "bar" ? one.bar !== here.bar : one.bar !== here.bar || Math.floor(one.beat) !== Math.floor(here.beat);
    if (isOther) return way > 0 ? k : firstOf(told, k, by, fits);
  }
  return at;
}

/** Back to a bar or a beat is back to its first moment.
 * @param {Told[]} told @param {number} at @param {"beat" | "bar"} by @param {(one: Told) => boolean} fits */
function firstOf(told, at, by, fits) {
  const { bar, beat } = told[at];
  return told.findIndex((one) => fits(one) && one.bar === bar && (by === "bar" || Math.floor(one.beat) === Math.floor(beat)));
}

export class InWords {
  /**
   * @param {HTMLDetailsElement | null} details
   * @param {{data: StandData, sound: import("../../common/js/sound.js").Sound, cursor: import("../../common/js/cursor.js").Cursor}} needs
   */
  constructor(details, needs) {
    this.needs = needs;
    this.details = details;
    /** @type {Told[]} */
    this.told = [];
    this.at = -1;
    this.hand = "";
    this.details?.addEventListener("toggle", () => this.details?.open && this.open());
  }

  async open() {
    const { details, needs } = this;
    if (!details || this.told.length > 0) return;
    const place = /** @type {HTMLElement} */ (details.querySelector("[data-words-place]"));
    const response = await ask(`${details.dataset.url}?key=${needs.data.keyText}`).catch(() => null);
    if (!response?.ok) {
      place.textContent = gettext("The text could not be loaded. Close this and open it again to try once more.");
      return;
    }
    place.innerHTML = await response.text();
    this.told = JSON.parse(document.getElementById("told-in-words")?.textContent ?? "[]");
    place.querySelector("[data-step-through]")?.addEventListener("keydown", (event) => this.press(/** @type {KeyboardEvent} */ (event)));
  }

  /** @param {KeyboardEvent} event */
  press(event) {
    const by = event.shiftKey ? "beat" : "note";
    const steps = /** @type {Record<string, () => number>} */ ({
      ArrowRight: () => stepped(this.told, this.at, by, 1, this.hand),
      ArrowLeft: () => stepped(this.told, this.at, by, -1, this.hand),
      ArrowDown: () => stepped(this.told, this.at, "bar", 1, this.hand),
      ArrowUp: () => stepped(this.told, this.at, "bar", -1, this.hand),
      Home: () => stepped(this.told, -1, "note", 1, this.hand),
      End: () => stepped(this.told, this.told.length, "note", -1, this.hand),
      Enter: () => this.at,
    });
    if (event.key === "PageDown" || event.key === "PageUp") this.changeHand();
    else if (!steps[event.key]) return;
    else this.go(steps[event.key]());
    event.preventDefault();
    event.stopPropagation();
  }

  changeHand() {
    const hands = ["", ...new Set(this.told.map((one) => one.hand).filter(Boolean))];
    this.hand = hands[(hands.indexOf(this.hand) + 1) % hands.length];
    const names = /** @type {Record<string, string>} */ ({ "": gettext("both hands"), right: gettext("right hand alone"), left: gettext("left hand alone") });
    this.say(names[this.hand] ?? this.hand);
  }

  /** @param {number} at */
  go(at) {
    const one = this.told[at];
    if (!one) return;
    const before = this.told[this.at];
    this.at = at;
    // The place is said as far as it is another one.
    this.say(`${!before || before.bar !== one.bar || before.beat !== one.beat ? `${one.place}: ` : ""}${one.said}`);
    this.sound(one);
    this.needs.cursor.show(one.second);
  }

  /** @param {string} words */
  say(words) {
    const place = this.details?.querySelector("[data-step-said]");
    if (place) place.textContent = words;
  }

  /** @param {Told} one */
  async sound({ pitches }) {
    const { sound, data } = this.needs;
    await sound.open();
    const channel = channelOf(CHANNEL_PART, data.hasLanes);
    const ends = sound.context.currentTime + SOUNDS_S;
    sound.play(pitches.flatMap((pitch) => /** @type {TimedMessage[]} */ ([[0, NOTE_ON | channel, pitch, LOUDNESS], [ends, NOTE_OFF | channel, pitch, 64]])));
  }
}
