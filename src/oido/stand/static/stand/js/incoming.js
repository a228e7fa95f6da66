/** What comes from the instrument: sounded at once, handed on, and shown when there is time. */
import { CHANNEL_LIVE, NOTE_OFF, NOTE_ON, channelOf } from "../../common/js/sound.js";
import { drawKeyboard, drawManuals, drawPads, showKey } from "../../common/js/playing/instrument.js";

/** Names of notes are said no oftener: nobody reads faster. */
const WORDS_EVERY_MS = 120;

export class Incoming {
  /** @param {StandParts} parts @param {(pitch: number) => string} name */
  constructor(parts, name) {
    this.parts = parts;
    this.name = name;
    this.frame = 0;
    this.words = 0;
    /** @type {{pitch: number, velocity: number} | null} */
    this.sounded = null;
    /** @type {Map<number, boolean>} */
    this.keysToShow = new Map();
  }

  /** @param {NoteInput} input */
  receive(input) {
    const { root, data, sound, pads, latency, recording, practising, view, unplugged } = this.parts;
    const [status, number, velocity] = input.bytes;
    const kind = status & 0xf0;
    const isNote = kind === NOTE_ON || kind === NOTE_OFF;
    const isOn = kind === NOTE_ON && velocity > 0;
    if (isOn && pads.hit(number)) return;
    const pitch = isNote && data.hasLanes ? pads.meant(number) : number;
    sound.play([[0, kind | channelOf(CHANNEL_LIVE, data.hasLanes), pitch, velocity]]);
    root.dispatchEvent(new CustomEvent("note-sounded", { detail: performance.now() - input.timeStamp }));
    recording.receive(input);
    practising.receive({ timeStamp: input.timeStamp, bytes: [status, pitch, velocity] });
    if (isOn) {
      latency.tap(input);
      view?.struck(pitch, recording.secondOf(input.timeStamp) ?? practising.secondOf(input.timeStamp));
      unplugged?.close();
      this.sounded = { pitch, velocity };
    }
    if (isNote) this.keysToShow.set(pitch, isOn);
    // What is seen waits for the next frame, and words a little longer, so that no note waits for them.
    if (this.frame === 0) this.frame = requestAnimationFrame(() => this.showKeys());
    if (isOn && this.words === 0) this.words = window.setTimeout(() => this.showSounded(), WORDS_EVERY_MS);
  }

  showSounded() {
    this.words = 0;
    if (this.sounded) this.parts.check.showNote(this.sounded.pitch, this.sounded.velocity, this.parts.machine.isRecording);
    this.sounded = null;
  }

  showKeys() {
    this.frame = 0;
    for (const [pitch, isOn] of this.keysToShow) showKey(this.parts.instrument, pitch, isOn);
    this.keysToShow.clear();
  }

  /** The keyboard or the pads on the screen. @param {Map<string, number>} layout
   * @param {number[]} needed pitches that are played now: for those alone there is room then */
  drawInstrument(layout, needed = []) {
    const { data, instrument, check } = this.parts;
    if (needed.length > 0 && !check.row.isTyped) layout = new Map();
    if (data.hasLanes) drawPads(instrument, needed.length ? data.pads.filter((pad) => needed.includes(pad.pitch)) : data.pads, layout);
    else if (needed.length > 0) drawManuals(instrument, needed, layout, this.name);
    else {
      const typed = check?.row.isTyped ? [...layout.values()] : [];
      drawKeyboard(instrument, [...data.compass, ...typed], layout, this.name);
    }
  }
}
