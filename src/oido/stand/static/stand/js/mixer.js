/** Volumes of part, take, backing and click; mute and alone; and what one plays with. Kept in this browser. */
import { CHANNEL_BACKING, CHANNEL_LIVE, CHANNEL_PART, CHANNEL_TAKE } from "../../common/js/sound.js";
import { keep, read } from "./settings.js";

const CHANNELS = /** @type {Record<string, number[]>} */ ({
  part: [CHANNEL_PART], take: [CHANNEL_TAKE, CHANNEL_LIVE], backing: [CHANNEL_BACKING], click: [],
});
const FULL = 100;

/** @typedef {{volume: number, mute: boolean, solo: boolean}} Strip */

export class Mixer {
  /** @param {HTMLElement} root of the page @param {import("../../common/js/sound.js").Sound} sound */
  constructor(root, sound) {
    this.sound = sound;
    /** @type {Record<string, Strip>} */
    this.strips = read("mixer", {});
    this.rows = /** @type {HTMLElement[]} */ ([...root.querySelectorAll("[data-strip]")]);
    for (const row of this.rows) {
      const name = row.dataset.strip ?? "";
      const strip = (this.strips[name] ??= { volume: 80, mute: false, solo: false });
      const input = (/** @type {string} */ what) => /** @type {HTMLInputElement} */ (row.querySelector(`[data-${what}]`));
      const [volume, mute, solo] = ["volume", "mute", "solo"].map(input);
      [volume.value, mute.checked, solo.checked] = [String(strip.volume), strip.mute, strip.solo];
      row.addEventListener("input", () => {
        this.strips[name] = { volume: Number(volume.value), mute: mute.checked, solo: solo.checked };
        keep("mixer", this.strips);
        this.apply();
      });
    }
    this.choices = /** @type {HTMLInputElement[]} */ ([...root.querySelectorAll("[data-sound]")]);
    const kept = String(read("sound", ""));
    const chosen = this.choices.find((choice) => choice.value === kept) ?? this.choices[0];
    if (chosen) chosen.checked = true;
    for (const choice of this.choices) {
      choice.addEventListener("change", () => {
        keep("sound", choice.value);
        this.apply();
      });
    }
    const click = /** @type {HTMLSelectElement | null} */ (root.querySelector("[data-click-sound]"));
    if (click) {
      click.value = sound.clickSound = read("click-sound", "");
      click.addEventListener("change", () => keep("click-sound", (sound.clickSound = click.value)));
    }
    this.apply();
  }

  /** 0 to 1; what another one's being alone leaves of it.
   * @param {string} name */
  volume(name) {
    const strip = this.strips[name] ?? { volume: FULL, mute: false, solo: false };
    const isAlone = this.rows.some((row) => this.strips[row.dataset.strip ?? ""]?.solo);
    return strip.mute || (isAlone && !strip.solo) ? 0 : strip.volume / FULL;
  }

  apply() {
    for (const [name, channels] of Object.entries(CHANNELS)) {
      for (const channel of channels) this.sound.setVolume(channel, this.volume(name));
    }
    this.sound.clickVolume = this.volume("click");
    const chosen = this.choices.find((choice) => choice.checked);
    if (chosen) this.sound.playWith(Number(chosen.value));
  }
}
