/**
 * Input sources behind one small interface.
 *
 * @typedef {{
 *   start(): Promise<string>,
 *   stop(): void,
 *   device: string,
 * }} Source  start() resolves to words for the page, or throws an Error whose message says why not
 */
import { ask } from "../../common/js/signed_out.js";
import { TYPING_VELOCITY } from "./typing.js";

const NOTE_ON = 0x90;
const NOTE_OFF = 0x80;
const CHANNEL_MESSAGES = [0x80, 0xf0];
const PROGRAM = 0xc0;
const [SOFTEST, STRONGEST] = [36, 118];

/** @typedef {{id: string, name: string}} Device */

/** Instruments through the browser's Web MIDI, plugged and unplugged at will. */
export class MidiSource {
  /**
   * @param {(input: NoteInput) => void} onInput @param {(words: string) => void} onState
   * @param {(devices: Device[], chosen: string) => void} onDevices
   */
  constructor(onInput, onState, onDevices = () => {}) {
    this.onInput = onInput;
    this.onState = onState;
    this.onDevices = onDevices;
    /** The one that is listened to; none until one has played or is chosen. */
    this.chosen = "";
    /** @type {Device[]} */
    this.devices = [];
    /** @type {MIDIAccess | null} */
    this.access = null;
  }

  get device() {
    return this.devices.find((device) => device.id === this.chosen)?.name ?? "";
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
    this.access.onstatechange = () => {
      const before = this.device;
      const words = this.attach();
      this.onState(before && !this.device ? interpolate(gettext("%(name)s was unplugged. Plug it in again, or play another."), { name: before }, true) : words);
    };
    return this.attach();
  }

  /** Listen to every input there is, until one has played: then to that one alone. */
  attach() {
    const inputs = [...(this.access?.inputs.values() ?? [])].filter((input) => input.state !== "disconnected");
    /** @type {Map<string, number>} */
    const seen = new Map();
    this.devices = inputs.map((input) => {
      const name = input.name ?? gettext("a device");
      const count = (seen.get(name) ?? 0) + 1;
      seen.set(name, count);
      return { id: input.id ?? name, name: count > 1 ? `${name} (${count})` : name };
    });
    if (!this.devices.some((device) => device.id === this.chosen)) this.chosen = "";
    inputs.forEach((input, k) => (input.onmidimessage = (event) => this.receive(this.devices[k].id, event)));
    this.onDevices(this.devices, this.chosen);
    if (inputs.length === 0) return gettext("No MIDI device is plugged in. Plug one in now, or choose another source.");
    return interpolate(gettext("%(names)s: play a note to check it."), { names: this.device || this.devices.map((d) => d.name).join(", ") }, true);
  }

  /** @param {string} id of a device; none to listen for the first that plays */
  choose(id) {
    this.chosen = id;
    this.onDevices(this.devices, id);
  }

  /** @param {string} id @param {MIDIMessageEvent} event */
  receive(id, event) {
    const bytes = [...(event.data ?? [])];
    if (bytes[0] < CHANNEL_MESSAGES[0] || bytes[0] >= CHANNEL_MESSAGES[1] || (bytes[0] & 0xf0) === PROGRAM) return;
    if (!this.chosen && (bytes[0] & 0xf0) === NOTE_ON) this.choose(id);
    if (this.chosen && id !== this.chosen) return;
    this.onInput({ timeStamp: event.timeStamp, bytes: [bytes[0], bytes[1] ?? 0, bytes[2] ?? 0] });
  }

  stop() {
    for (const input of this.access?.inputs.values() ?? []) input.onmidimessage = null;
    if (this.access) this.access.onstatechange = null;
    this.onDevices([], "");
  }
}

/** Keys and pads on the screen: mouse, pen and touch. */
export class ScreenSource {
  /** @param {HTMLElement} surface @param {(input: NoteInput) => void} onInput @param {() => number} fixed the velocity of all notes; 0 where the place struck says it */
  constructor(surface, onInput, fixed = () => TYPING_VELOCITY) {
    this.surface = surface;
    this.onInput = onInput;
    this.fixed = fixed;
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
    this.onInput({ timeStamp: event.timeStamp, bytes: [NOTE_ON, pitch, this.fixed() || velocityAt(key, event)] });
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

/** A key struck at its front, or a pad in its middle, is struck strongly.
 * @param {HTMLElement} key @param {PointerEvent} event */
function velocityAt(key, event) {
  const box = key.getBoundingClientRect();
  const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  const share = key.classList.contains("pad") ? 1 - Math.min(1, 2 * Math.hypot(x - 0.5, y - 0.5)) : y;
  return Math.round(SOFTEST + (STRONGEST - SOFTEST) * Math.min(1, Math.max(0, share)));
}

/** The robot player: the server's core makes its notes, this plays them when recording begins. */
export class RobotSource {
  /** @param {string} url @param {() => string} habits @param {() => string} key @param {(input: NoteInput) => void} onInput */
  constructor(url, habits, key, onInput) {
    this.url = url;
    this.habits = habits;
    this.key = key;
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
    const response = await ask(`${this.url}?habits=${encodeURIComponent(this.habits())}&seed=${seed}&key=${this.key()}`);
    if (!response.ok) throw new Error(gettext("The robot player does not answer. Reload the page to try again."));
    this.events = (await response.json()).events;
  }

  /**
   * @param {number} downbeatMs when bar 1 begins, as an event's time stamp
   * @param {{rate?: number, fromMs?: number, untilMs?: number, pitches?: Set<number> | null}} how at which rate of the
   *   exercise's tempo, and which stretch and pitches of its own music
   */
  perform(downbeatMs, { rate = 1, fromMs = -Infinity, untilMs = Infinity, pitches = null } = {}) {
    for (const [timeMs, ...bytes] of this.events) {
      if (timeMs < fromMs || timeMs >= untilMs || (pitches && !pitches.has(bytes[1]))) continue;
      const timeStamp = downbeatMs + timeMs / rate;
      const wait = timeStamp - performance.now();
      this.timers.push(window.setTimeout(() => this.onInput({ timeStamp, bytes }), wait));
    }
  }

  stop() {
    this.timers.forEach((timer) => window.clearTimeout(timer));
    this.timers = [];
  }
}
