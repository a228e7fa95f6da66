/** Which pad is which: each lane's is hit once, and what it sends is kept for the device. */
import { keep, read } from "./settings.js";

export class Pads {
  /** @param {HTMLElement} root @param {{name: string, pitch: number}[]} lanes @param {() => string} setUp source and device */
  constructor(root, lanes, setUp) {
    this.root = root;
    this.lanes = lanes;
    this.setUp = setUp;
    /** The lane that is asked for; -1 if none is. */
    this.asked = -1;
    /** @type {Record<string, number>} */
    this.told = {};
    this.find("tell-pads")?.addEventListener("click", () => this.begin());
    this.find("forget-pads")?.addEventListener("click", () => this.forget());
  }

  /** @param {string} what @returns {any} */
  find(what) {
    return this.root.querySelector(`[data-${what}]`);
  }

  /** Numbers that pads send, and those that are meant. @returns {Record<string, number>} */
  get map() {
    return /** @type {Record<string, Record<string, number>>} */ (read("pads", {}))[this.setUp()] ?? {};
  }

  /** @param {number} pitch */
  meant(pitch) {
    return this.map[pitch] ?? pitch;
  }

  begin() {
    this.told = {};
    this.asked = 0;
    this.ask();
  }

  ask() {
    const lane = this.lanes[this.asked];
    if (lane) return this.say(interpolate(gettext("Hit your %(lane)s."), { lane: lane.name }, true));
    keep("pads", { ...read("pads", {}), [this.setUp()]: this.told });
    this.asked = -1;
    this.say(gettext("All pads are set up."));
    this.show();
  }

  /** @param {number} pitch as the pad sends it; true if the hit was asked for */
  hit(pitch) {
    if (this.asked < 0) return false;
    if (this.told[pitch] !== undefined) {
      const other = this.lanes.find((lane) => lane.pitch === this.told[pitch]);
      this.say(interpolate(gettext("That pad is your %(other)s. Hit your %(lane)s."), { other: other?.name, lane: this.lanes[this.asked].name }, true));
      return true;
    }
    this.told[pitch] = this.lanes[this.asked].pitch;
    this.asked += 1;
    this.ask();
    return true;
  }

  forget() {
    const all = /** @type {Record<string, unknown>} */ (read("pads", {}));
    delete all[this.setUp()];
    keep("pads", all);
    this.say("");
    this.show();
  }

  show() {
    const button = this.find("forget-pads");
    if (button) button.hidden = Object.keys(this.map).length === 0;
  }

  /** @param {string} words */
  say(words) {
    const state = this.find("pads-state");
    if (state) state.textContent = words;
  }
}
