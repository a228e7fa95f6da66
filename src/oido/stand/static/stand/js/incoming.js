/** What comes from the instrument: sounded at once, handed on, and shown when there is time. */
import { CHANNEL_LIVE, NOTE_OFF, NOTE_ON, channelOf } from "../../common/js/sound.js";

/** Names of notes are said no oftener: nobody reads faster. */
const WORDS_EVERY_MS = 120;

/**
 * A message as it was played, and what it means: the pitch that a pad stands for.
 * @typedef {{input: NoteInput, pitch: number, velocity: number, isOn: boolean}} Played
 */

export class Incoming {
  /**
   * @param {{root: HTMLElement, data: StandData, sound: import("../../common/js/sound.js").Sound, pads: import("./pads.js").Pads,
   *   instrument: import("./drawn_instrument.js").DrawnInstrument, onPlayed(played: Played): void, onWords(pitch: number, velocity: number): void}} needs
   *   everything is handed to `onPlayed` at once, and now and then a note to `onWords`
   */
  constructor(needs) {
    this.needs = needs;
    this.frame = 0;
    this.words = 0;
    /** @type {{pitch: number, velocity: number} | null} */
    this.sounded = null;
    /** @type {Map<number, boolean>} */
    this.keysToShow = new Map();
  }

  /** @param {NoteInput} input */
  receive(input) {
    const { root, data, sound, pads, onPlayed } = this.needs;
    const [status, number, velocity] = input.bytes;
    const kind = status & 0xf0;
    const isNote = kind === NOTE_ON || kind === NOTE_OFF;
    const isOn = kind === NOTE_ON && velocity > 0;
    if (isOn && pads.hit(number)) return;
    const pitch = isNote && data.hasLanes ? pads.meant(number) : number;
    sound.play([[0, kind | channelOf(CHANNEL_LIVE, data.hasLanes), pitch, velocity]]);
    root.dispatchEvent(new CustomEvent("note-sounded", { detail: performance.now() - input.timeStamp }));
    onPlayed({ input, pitch, velocity, isOn });
    if (isOn) this.sounded = { pitch, velocity };
    if (isNote) this.keysToShow.set(pitch, isOn);
    // What is seen waits for the next frame, and words a little longer, so that no note waits for them.
    if (this.frame === 0) this.frame = requestAnimationFrame(() => this.showKeys());
    if (isOn && this.words === 0) this.words = window.setTimeout(() => this.showSounded(), WORDS_EVERY_MS);
  }

  showSounded() {
    this.words = 0;
    if (this.sounded) this.needs.onWords(this.sounded.pitch, this.sounded.velocity);
    this.sounded = null;
  }

  showKeys() {
    this.frame = 0;
    for (const [pitch, isOn] of this.keysToShow) this.needs.instrument.show(pitch, isOn);
    this.keysToShow.clear();
  }
}
