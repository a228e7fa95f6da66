/**
 * Input sources behind one small interface.
 *
 * @typedef {{
 *   start(): Promise<string>,
 *   stop(): void,
 *   device: string,
 * }} Source  start() resolves to words for the page, or throws an Error whose message says why not
 */
const NOTE_ON = 0x90;
const NOTE_OFF = 0x80;
const CHANNEL_MESSAGES = [0x80, 0xf0];
export const TYPING_VELOCITY = 80;

/** Instruments through the browser's Web MIDI, plugged and unplugged at will. */
export class MidiSource {
  /** @param {(input: NoteInput) => void} onInput @param {(words: string) => void} onState */
  constructor(onInput, onState) {
    this.onInput = onInput;
    this.onState = onState;
    this.device = "";
    /** @type {MIDIAccess | null} */
    this.access = null;
  }

  async start() {
    if (!navigator.requestMIDIAccess) {
      throw new Error(gettext("This browser has no Web MIDI. Choose typing keys or on-screen keys instead."));
    }
    try {
      this.access = await navigator.requestMIDIAccess({ sysex: false });
    } catch {
      throw new Error(gettext("The browser refused MIDI. Allow it for this page, or choose typing keys or on-screen keys."));
    }
    this.access.onstatechange = () => this.onState(this.attach());
    return this.attach();
  }

  /** Listen to every input there is. */
  attach() {
    const names = [];
    for (const input of this.access?.inputs.values() ?? []) {
      if (input.state === "disconnected") continue;
      names.push(input.name ?? gettext("a device"));
      input.onmidimessage = (event) => {
        const bytes = [...(event.data ?? [])];
        if (bytes[0] < CHANNEL_MESSAGES[0] || bytes[0] >= CHANNEL_MESSAGES[1]) return;
        this.device = input.name ?? "";
        this.onInput({ timeStamp: event.timeStamp, bytes: [bytes[0], bytes[1] ?? 0, bytes[2] ?? 0] });
      };
    }
    if (names.length === 0) return gettext("No MIDI device is plugged in. Plug one in now, or choose another source.");
    return interpolate(gettext("%(names)s: play a note to check it."), { names: names.join(", ") }, true);
  }

  stop() {
    for (const input of this.access?.inputs.values() ?? []) input.onmidimessage = null;
    if (this.access) this.access.onstatechange = null;
  }
}

/** The computer's own keys. */
export class TypingSource {
  /** @param {Map<string, number>} layout @param {(input: NoteInput) => void} onInput */
  constructor(layout, onInput) {
    this.layout = layout;
    this.onInput = onInput;
    this.device = "";
    /** @type {Map<string, number>} */
    this.down = new Map();
    this.press = this.press.bind(this);
    this.release = this.release.bind(this);
  }

  async start() {
    document.addEventListener("keydown", this.press);
    document.addEventListener("keyup", this.release);
    return gettext("Typing keys: press a key of the middle row to check.");
  }

  /** @param {KeyboardEvent} event */
  press(event) {
    const pitch = this.layout.get(event.code);
    const target = /** @type {HTMLElement} */ (event.target);
    if (pitch === undefined || event.repeat || event.ctrlKey || event.altKey || event.metaKey) return;
    if (target.closest("input:not([type=radio], [type=checkbox]), textarea, select")) return;
    event.preventDefault();
    this.down.set(event.code, pitch);
    this.onInput({ timeStamp: event.timeStamp, bytes: [NOTE_ON, pitch, TYPING_VELOCITY] });
  }

  /** @param {KeyboardEvent} event */
  release(event) {
    const pitch = this.down.get(event.code);
    if (pitch === undefined) return;
    this.down.delete(event.code);
    this.onInput({ timeStamp: event.timeStamp, bytes: [NOTE_OFF, pitch, 64] });
  }

  stop() {
    document.removeEventListener("keydown", this.press);
    document.removeEventListener("keyup", this.release);
  }
}

/** Keys and pads on the screen: mouse, pen and touch. */
export class ScreenSource {
  /** @param {HTMLElement} surface @param {(input: NoteInput) => void} onInput */
  constructor(surface, onInput) {
    this.surface = surface;
    this.onInput = onInput;
    this.device = "";
    /** @type {Map<number, number>} */
    this.held = new Map();
    this.press = this.press.bind(this);
    this.release = this.release.bind(this);
  }

  async start() {
    this.surface.addEventListener("pointerdown", this.press);
    window.addEventListener("pointerup", this.release);
    window.addEventListener("pointercancel", this.release);
    return gettext("On-screen keys: press one to check.");
  }

  /** @param {PointerEvent} event */
  press(event) {
    const key = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-pitch]"));
    if (!key) return;
    event.preventDefault();
    const pitch = Number(key.dataset.pitch);
    this.held.set(event.pointerId, pitch);
    this.onInput({ timeStamp: event.timeStamp, bytes: [NOTE_ON, pitch, TYPING_VELOCITY] });
  }

  /** @param {PointerEvent} event */
  release(event) {
    const pitch = this.held.get(event.pointerId);
    if (pitch === undefined) return;
    this.held.delete(event.pointerId);
    this.onInput({ timeStamp: event.timeStamp, bytes: [NOTE_OFF, pitch, 64] });
  }

  stop() {
    this.surface.removeEventListener("pointerdown", this.press);
    window.removeEventListener("pointerup", this.release);
    window.removeEventListener("pointercancel", this.release);
  }
}

/** The robot player: the server's core makes its notes, this plays them when recording begins. */
export class RobotSource {
  /** @param {string} url @param {() => string} habits @param {(input: NoteInput) => void} onInput */
  constructor(url, habits, onInput) {
    this.url = url;
    this.habits = habits;
    this.onInput = onInput;
    this.device = "";
    /** @type {number[]} */
    this.timers = [];
    /** @type {[number, number, number, number][]} */
    this.events = [];
  }

  async start() {
    return gettext("The robot player is ready: it plays when you record.");
  }

  /** Fetch a fresh performance; a new seed each time. */
  async prepare() {
    const seed = Math.floor(Math.random() * 1e6);
    this.device = this.habits();
    const response = await fetch(`${this.url}?habits=${encodeURIComponent(this.habits())}&seed=${seed}`);
    if (!response.ok) throw new Error(gettext("The robot player does not answer. Reload the page to try again."));
    this.events = (await response.json()).events;
  }

  /** @param {number} downbeatMs when bar 1 begins, as an event's time stamp */
  perform(downbeatMs) {
    for (const [timeMs, ...bytes] of this.events) {
      const timeStamp = downbeatMs + timeMs;
      const wait = timeStamp - performance.now();
      this.timers.push(window.setTimeout(() => this.onInput({ timeStamp, bytes }), wait));
    }
  }

  stop() {
    this.timers.forEach((timer) => window.clearTimeout(timer));
    this.timers = [];
  }
}
