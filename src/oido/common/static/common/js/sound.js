/**
 * Sound on the audio clock: the synthesizer in its worklet, and the click.
 *
 * All times are seconds of the AudioContext's clock.
 */

const READY_TIMEOUT_MS = 20000;
/** Hz of beats and of first beats, seconds that it lasts, and how quickly it fades.
 * @type {Record<string, {low: number, high: number, lasts: number, fades: number}>} */
const CLICK_SOUNDS = {
  tick: { low: 1175, high: 1760, lasts: 0.04, fades: 120 },
  wood: { low: 620, high: 930, lasts: 0.05, fades: 160 },
  bell: { low: 2093, high: 2794, lasts: 0.18, fades: 28 },
};
export const NOTE_ON = 0x90;
export const NOTE_OFF = 0x80;
export const CONTROL = 0xb0;
/** Channel mode message: ends whatever sounds on its channel. */
export const ALL_NOTES_OFF = 123;
const PROGRAM = 0xc0;
/** Of a sample: so that rounding never falls back to the one before. */
const NUDGE = 1e-4;
const BEND = 0xe0;
const [MODULATION, VOLUME, PAN] = [1, 7, 10];
export const PEDAL = 64;
const [LEFT, MIDDLE, RIGHT] = [0, 64, 127];

export const CHANNEL_PART = 0;
export const CHANNEL_TAKE = 1;
export const CHANNEL_LIVE = 2;
export const CHANNEL_BACKING = 3;
/** The kit of each: the worklet makes these channels kits. */
const KITS = /** @type {Record<number, number>} */ ({ [CHANNEL_PART]: 9, [CHANNEL_TAKE]: 10, [CHANNEL_LIVE]: 11, [CHANNEL_BACKING]: 12 });
const ELECTRIC_PIANO = 4;

/** The channel on which somebody is heard: its own, or its kit's.
 * @param {number} channel @param {boolean} hasLanes */
export const channelOf = (channel, hasLanes) => (hasLanes ? KITS[channel] : channel);

export class Sound {
  /** @param {{worklet: string, bank: string}} urls @param {BaseAudioContext} [context] of one's own, to be rendered without sounding */
  constructor(urls, context) {
    this.urls = urls;
    this.context = /** @type {AudioContext} */ (context ?? new AudioContext({ latencyHint: "interactive" }));
    /** Of full, by the mixer. */
    this.clickVolume = 1;
    /** @type {AudioWorkletNode | null} */
    this.node = null;
    /** @type {AudioBufferSourceNode[]} */
    this.clicks = [];
    /** @type {Map<string, AudioBuffer>} */
    this.clickBuffers = new Map();
    /** @type {Promise<void> | null} */
    this.opening = null;
    /** @type {(() => void) | null} */
    this.onReady = null;
    /** An instrument that sounds instead of this computer.
     * @type {{play(events: TimedMessage[]): void, click(time: number, isFirst: boolean, volume: number): void, hush(): void} | null} */
    this.outside = null;
  }

  /** Wake the audio clock (needs a gesture of the user) and load the sounds, once. */
  async open() {
    await this.context.resume();
    this.opening ??= this.load().catch((error) => {
      this.opening = null;
      throw error;
    });
    return this.opening;
  }

  async load() {
    await this.context.audioWorklet.addModule(this.urls.worklet);
    const node = new AudioWorkletNode(this.context, "oido-synth", { numberOfInputs: 0, outputChannelCount: [2] });
    node.connect(this.context.destination);
    const response = await fetch(this.urls.bank);
    if (!response.ok) throw new Error(`sounds: ${response.status}`);
    const data = await response.arrayBuffer();
    await new Promise((resolve, reject) => {
      const timer = setTimeout(() => reject(new Error("the sounds did not get ready")), READY_TIMEOUT_MS);
      node.port.onmessage = ({ data: message }) => {
        clearTimeout(timer);
        if (message.type === "ready") resolve(undefined);
        else reject(new Error(message.reason));
      };
      node.port.postMessage({ type: "bank", data }, [data]);
    });
    this.node = node;
    this.play([[0, PROGRAM | CHANNEL_PART, ELECTRIC_PIANO, 0]]);
    this.play([[0, PROGRAM | CHANNEL_TAKE, 0, 0], [0, PROGRAM | CHANNEL_LIVE, 0, 0]]);
    this.onReady?.();
  }

  /** What somebody sounds like, and the volume (0 to 1); takes sound as one plays oneself.
   * @param {number} program */
  playWith(program) {
    this.play([[0, PROGRAM | CHANNEL_TAKE, program, 0], [0, PROGRAM | CHANNEL_LIVE, program, 0]]);
  }

  /** @param {number} channel @param {number} volume 0 to 1 */
  setVolume(channel, volume) {
    const value = Math.round(127 * volume);
    this.play([channel, KITS[channel]].map((c) => [0, CONTROL | c, VOLUME, value]));
  }

  /** The part at the left and the take at the right, or both in the middle.
   * @param {boolean} isApart */
  setApart(isApart) {
    const sides = [[CHANNEL_PART, isApart ? LEFT : MIDDLE], [CHANNEL_TAKE, isApart ? RIGHT : MIDDLE]];
    this.play(sides.flatMap(([channel, side]) => [channel, KITS[channel]].map((c) => /** @type {TimedMessage} */ ([0, CONTROL | c, PAN, side]))));
  }

  get isReady() {
    return this.node !== null;
  }

  /** @param {TimedMessage[]} events time 0 means at once */
  play(events) {
    if (this.outside) return this.outside.play(events);
    this.node?.port.postMessage({ type: "play", events });
  }

  /** Pedal up, no bend, no modulation. @param {number} channel */
  atRest(channel) {
    const to = [channel, KITS[channel]];
    this.play(to.flatMap((c) => [[0, CONTROL | c, PEDAL, 0], [0, CONTROL | c, MODULATION, 0], [0, BEND | c, 0, 64]]));
  }

  /** Forget all that is scheduled; end what sounds. */
  hush() {
    this.outside?.hush();
    this.node?.port.postMessage({ type: "hush" });
    for (const click of this.clicks) click.stop();
    this.clicks = [];
  }

  /**
   * @param {number} time
   * @param {boolean} isFirst the first beat of a bar
   * @param {{sound: string, level: number}} [how]
   * @param {number} [volume] of full; the mixer's where it is not said
   */
  click(time, isFirst, how = { sound: "tick", level: 0.8 }, volume = this.clickVolume) {
    if (this.outside) return this.outside.click(time, isFirst, volume * how.level);
    const source = this.context.createBufferSource();
    source.buffer = this.clickBuffer(how.sound, isFirst);
    const gain = this.context.createGain();
    gain.gain.value = (volume * how.level) / 0.8;
    source.connect(gain).connect(this.context.destination);
    // On a sample: between two of them the click would be smeared over both.
    const rate = this.context.sampleRate;
    source.start((Math.round(time * rate) + NUDGE) / rate);
    this.clicks.push(source);
    source.onended = () => {
      this.clicks = this.clicks.filter((other) => other !== source);
    };
  }

  /** @param {string} sound @param {boolean} isFirst */
  clickBuffer(sound, isFirst) {
    const name = `${sound} ${isFirst}`;
    const made = this.clickBuffers.get(name);
    if (made) return made;
    const { low, high, lasts, fades } = CLICK_SOUNDS[sound] ?? CLICK_SOUNDS.tick;
    const rate = this.context.sampleRate;
    const buffer = this.context.createBuffer(1, Math.round(lasts * rate), rate);
    const samples = buffer.getChannelData(0);
    for (let n = 0; n < samples.length; n++) {
      const t = n / rate;
      samples[n] = 0.5 * Math.sin(2 * Math.PI * (isFirst ? high : low) * t) * Math.exp(-t * fades);
    }
    this.clickBuffers.set(name, buffer);
    return buffer;
  }
}
