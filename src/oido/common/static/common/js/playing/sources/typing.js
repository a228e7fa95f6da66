/**
 * The computer's own keys as an instrument, by the place of a key and not its letter, so that every
 * national layout works. Keys that are no notes: octave, home note, velocity, accent, pedal, bend,
 * modulation.
 *
 * @typedef {{rows: [string[], number][], scale: number[], home: number} | null} Rows  rows of key places with
 *   how many semitones they lie off the scale; null where keys are pads
 */
const [NOTE_OFF, NOTE_ON, CONTROL, BEND] = [0x80, 0x90, 0xb0, 0xe0];
const [MODULATION, PEDAL] = [1, 64];
const RELEASE_VELOCITY = 64;
const [SOFTEST, LOUDEST, VELOCITY_STEP] = [24, 112, 8];
export const TYPING_VELOCITY = 80;
const ACCENT = 30;
const MAX_VELOCITY = 127;
const SEMITONES = 12;

/** Keys that are held: what they send when they go down and when they come up. */
const HELD = /** @type {Record<string, [NoteInput["bytes"], NoteInput["bytes"]]>} */ ({
  Quote: [[CONTROL, PEDAL, 127], [CONTROL, PEDAL, 0]],
  Digit8: [[BEND, 0, 0], [BEND, 0, 64]],
  Digit9: [[BEND, 127, 127], [BEND, 0, 64]],
  Digit0: [[CONTROL, MODULATION, 100], [CONTROL, MODULATION, 0]],
});
const ACCENT_KEY = "BracketLeft";
const FIELDS = "input:not([type=radio], [type=checkbox], [type=range]), textarea, select, [contenteditable]";

export class TypingSource {
  /**
   * @param {Map<string, number>} layout key places of pads @param {Rows} rows of a keyboard
   * @param {(input: NoteInput) => void} onInput
   * @param {{onLayout(layout: Map<string, number>): void, onState(words: string): void}} listeners
   */
  constructor(layout, rows, onInput, listeners) {
    this.layout = layout;
    this.rows = rows;
    this.at = rows ? rows.scale.indexOf(rows.home) : 0;
    this.onInput = onInput;
    this.listeners = listeners;
    this.device = "";
    this.baseVelocity = TYPING_VELOCITY;
    this.isAccented = false;
    this.isAsleep = false;
    /** @type {Map<string, number>} notes that sound, by key */
    this.down = new Map();
    /** @type {Set<string>} keys of `HELD` that are down */
    this.held = new Set();
    this.press = this.press.bind(this);
    this.release = this.release.bind(this);
    this.sleep = this.sleep.bind(this);
    this.wake = this.wake.bind(this);
    // While a field loses the focus, it still has it.
    this.soonWake = () => window.setTimeout(this.wake);
  }

  async start() {
    document.addEventListener("keydown", this.press);
    document.addEventListener("keyup", this.release);
    document.addEventListener("focusin", this.wake);
    document.addEventListener("focusout", this.soonWake);
    window.addEventListener("blur", this.sleep);
    window.addEventListener("focus", this.wake);
    return gettext("Press a letter to hear it.");
  }

  stop() {
    this.letGo();
    document.removeEventListener("keydown", this.press);
    document.removeEventListener("keyup", this.release);
    document.removeEventListener("focusin", this.wake);
    document.removeEventListener("focusout", this.soonWake);
    window.removeEventListener("blur", this.sleep);
    window.removeEventListener("focus", this.wake);
    this.listeners.onState("");
  }

  /** Is somebody writing there? Then keys are letters. */
  isField(/** @type {EventTarget | null} */ target) {
    return target instanceof Element && target.closest(FIELDS) !== null;
  }

  /** @param {KeyboardEvent} event */
  press(event) {
    if (event.ctrlKey || event.altKey || event.metaKey || this.isField(event.target)) return;
    // A letter that plays nothing starts nothing else either: no search of the browser's, no shortcut.
    if (event.key.length === 1 && event.code !== "Space") event.preventDefault();
    if (event.repeat) return;
    const send = (/** @type {NoteInput["bytes"]} */ bytes) => this.onInput({ timeStamp: event.timeStamp, bytes });
    const pitch = this.layout.get(event.code);
    if (pitch !== undefined) {
      if (this.down.has(event.code)) return;
      this.down.set(event.code, pitch);
      send([NOTE_ON, pitch, this.velocity]);
    } else if (HELD[event.code]) {
      this.held.add(event.code);
      send(HELD[event.code][0]);
    } else if (event.code === ACCENT_KEY) this.isAccented = true;
    else this.change(event.code);
  }

  get velocity() {
    return Math.min(MAX_VELOCITY, this.baseVelocity + (this.isAccented ? ACCENT : 0));
  }

  /** @param {string} code */
  change(code) {
    const steps = { Digit3: -1, Digit4: 1 }[code];
    const octaves = { Digit1: -1, Digit2: 1 }[code];
    const stronger = { Digit5: -1, Digit6: 1 }[code];
    if (stronger) {
      this.baseVelocity = Math.min(LOUDEST, Math.max(SOFTEST, this.baseVelocity + stronger * VELOCITY_STEP));
      this.listeners.onState(interpolate(gettext("velocity %(v)s"), { v: this.baseVelocity }, true));
    } else if (this.rows && (steps || octaves)) this.moveHome(steps ?? 0, octaves ?? 0);
  }

  /** From the home note that is nearest to a pitch. @param {number} pitch */
  homeAt(pitch) {
    const { scale } = /** @type {NonNullable<Rows>} */ (this.rows);
    const wanted = scale.findIndex((one) => one >= pitch);
    this.moveHome(wanted - this.at, 0);
  }

  /** Other keys altogether, until the home note is moved. @param {Map<string, number>} layout */
  lay(layout) {
    this.letGo();
    this.layout = layout;
    this.listeners.onLayout(layout);
    // There is no home note now.
    this.listeners.onState("");
  }

  /** The layout from another home note: by steps of the scale, or by octaves.
   * @param {number} steps @param {number} octaves */
  moveHome(steps, octaves) {
    const { rows, scale } = /** @type {NonNullable<Rows>} */ (this.rows);
    // Keys that lay otherwise lie in rows again.
    const wanted = octaves ? scale.indexOf(scale[this.at] + SEMITONES * octaves) : this.at + steps;
    const longest = Math.max(...rows.map(([codes]) => codes.length));
    if (wanted < 0 || wanted + longest > scale.length) return;
    this.letGo();
    this.at = wanted;
    const pairs = rows.flatMap(([codes, shift]) => codes.map((code, k) => /** @type {[string, number]} */ ([code, scale[wanted + k] + shift])));
    this.layout = new Map(pairs.filter(([, pitch]) => pitch >= 0 && pitch <= MAX_VELOCITY));
    this.listeners.onLayout(this.layout);
  }

  /** @param {KeyboardEvent} event */
  release(event) {
    const pitch = this.down.get(event.code);
    const send = (/** @type {NoteInput["bytes"]} */ bytes) => this.onInput({ timeStamp: event.timeStamp, bytes });
    if (pitch !== undefined) {
      this.down.delete(event.code);
      send([NOTE_OFF, pitch, RELEASE_VELOCITY]);
    } else if (this.held.delete(event.code)) send(HELD[event.code][1]);
    else if (event.code === ACCENT_KEY) this.isAccented = false;
  }

  /** End all that sounds: its keys will not be heard coming up. */
  letGo() {
    const timeStamp = performance.now();
    for (const pitch of this.down.values()) this.onInput({ timeStamp, bytes: [NOTE_OFF, pitch, RELEASE_VELOCITY] });
    for (const code of this.held) this.onInput({ timeStamp, bytes: HELD[code][1] });
    this.down.clear();
    this.held.clear();
    this.isAccented = false;
  }

  sleep() {
    this.letGo();
    this.isAsleep = true;
    this.listeners.onState(gettext("Typing keys are off: another window has the keyboard. Click on this page to play on."));
  }

  wake() {
    if (this.isField(document.activeElement)) {
      this.letGo();
      this.isAsleep = true;
      this.listeners.onState(gettext("Typing keys are off while you write in a field. Press Escape to play on."));
    } else if (this.isAsleep) {
      this.isAsleep = false;
      this.listeners.onState("");
    }
  }
}
