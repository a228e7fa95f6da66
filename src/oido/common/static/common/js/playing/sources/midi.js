const NOTE_ON = 0x90;
const CHANNEL_MESSAGES = [0x80, 0xf0];
const PROGRAM = 0xc0;
/** All of them at once: a keyboard and a pedal board, two pads. */
export const ALL = "all";

/** @typedef {{id: string, name: string}} Device */

/** May this page use MIDI: was it asked, and what was the answer? */
export async function midiPermission() {
  const asked = navigator.permissions?.query({ name: /** @type {PermissionName} */ ("midi") });
  return (await asked?.catch(() => null))?.state ?? "denied";
}

/** Is there an instrument, as far as the browser tells? It may ask the student first. */
export async function hasDevices() {
  const access = await navigator.requestMIDIAccess?.({ sysex: false }).catch(() => null);
  return [...(access?.inputs.values() ?? [])].some((input) => input.state !== "disconnected");
}

/** Instruments through the browser's Web MIDI, plugged and unplugged at will. */
export class MidiSource {
  /**
   * @param {(input: NoteInput) => void} onInput @param {(words: string) => void} onState
   * @param {(devices: Device[], chosen: string) => void} onDevices
   * @param {(name: string) => void} onLost the one that was played is gone
   * @param {string} wanted name of the device to begin with, or all of them; none to listen for the first that plays
   */
  constructor(onInput, onState, onDevices = () => {}, onLost = () => {}, wanted = "") {
    this.wanted = wanted;
    this.onLost = onLost;
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
    return this.listened.join(" + ");
  }

  /** Names of the devices that are listened to: the chosen one, or all. */
  get listened() {
    return this.devices.filter(({ id }) => this.chosen === ALL || id === this.chosen).map(({ name }) => name);
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
      const before = this.listened;
      const words = this.attach();
      const lost = before.filter((name) => !this.listened.includes(name)).join(" + ");
      if (lost) this.onLost(lost);
      this.onState(lost ? interpolate(gettext("%(name)s was unplugged. Plug it back in, or play another instrument."), { name: lost }, true) : words);
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
    if (this.chosen !== ALL && !this.devices.some((device) => device.id === this.chosen)) this.chosen = "";
    if (!this.chosen) this.chosen = this.wanted === ALL ? ALL : (this.devices.find((device) => device.name === this.wanted)?.id ?? "");
    inputs.forEach((input, k) => (input.onmidimessage = (event) => this.receive(this.devices[k].id, event)));
    this.onDevices(this.devices, this.chosen);
    if (inputs.length === 0) return gettext("No MIDI device is plugged in. Plug one in now, or choose another source.");
    return interpolate(gettext("%(names)s: play a note to check it."), { names: this.device || this.devices.map((d) => d.name).join(", ") }, true);
  }

  /** @param {string} id of a device; none to listen for the first that plays */
  choose(id) {
    this.wanted = "";
    this.chosen = id;
    this.onDevices(this.devices, id);
  }

  /** @param {string} id @param {MIDIMessageEvent} event */
  receive(id, event) {
    const bytes = [...(event.data ?? [])];
    if (bytes[0] < CHANNEL_MESSAGES[0] || bytes[0] >= CHANNEL_MESSAGES[1] || (bytes[0] & 0xf0) === PROGRAM) return;
    if (!this.chosen && (bytes[0] & 0xf0) === NOTE_ON) this.choose(id);
    if (this.chosen && this.chosen !== ALL && id !== this.chosen) return;
    this.onInput({ timeStamp: event.timeStamp, bytes: [bytes[0], bytes[1] ?? 0, bytes[2] ?? 0] });
  }

  stop() {
    for (const input of this.access?.inputs.values() ?? []) input.onmidimessage = null;
    if (this.access) this.access.onstatechange = null;
    this.onDevices([], "");
  }
}
