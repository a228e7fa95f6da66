/**
 * Sound on the audio clock: the synthesizer in its worklet, and the click.
 *
 * All times are seconds of the AudioContext's clock.
 */
import { pageData } from "./main.js";
import { Bank } from "./bank.js";
import { SimpleSound } from "./simple_sound.js";

/** Nothing has sounded for so long: there is time to unpack sounds. */
const QUIET_MS = 1500;

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
/** General MIDI programs, counted from 0. */
export const [PIANO, ELECTRIC_PIANO] = [0, 4];
/** Name of the kit among the sounds. */
export const KIT = "kit";

/** The channel on which somebody is heard: its own, or its kit's.
 * @param {number} channel @param {boolean} hasLanes */
export const channelOf = (channel, hasLanes) => (hasLanes ? KITS[channel] : channel);

/** Is it the beginning of a note? @param {TimedMessage} event */
const begins = ([, status, , velocity]) => (status & 0xf0) === NOTE_ON && velocity > 0;

export class Sound {
  /**
   * @param {{firstSounds?: string[], addresses?: SoundAddresses, context?: BaseAudioContext}} [with_] `firstSounds`: those that
   *   are loaded before anything has sounded; `context`: to be rendered without sounding
   */
  constructor({ firstSounds = [], addresses = pageData("sounds"), context } = {}) {
    this.context = /** @type {AudioContext} */ (context ?? new AudioContext({ latencyHint: "interactive" }));
    /** Of full, by the mixer. */
    this.clickVolume = 1;
    this.bank = new Bank(/** @type {SoundAddresses} */ (addresses), () => this.sendSettings());
    this.bank.mayUnpack = () => this.mayImprove();
    this.bank.isQuiet = () => this.mayImprove() && (this.bank.isEmpty || (this.clicks.length === 0 && performance.now() - this.lastPlayedMs > QUIET_MS));
    this.firstSounds = firstSounds;
    /** The click that a student has chosen; empty for the exercise's own. */
    this.clickSound = "";
    this.simple = new SimpleSound(this.context);
    /** @type {AudioBufferSourceNode[]} */
    this.clicks = [];
    /** @type {Map<string, AudioBuffer>} */
    this.clickBuffers = new Map();
    /** The General MIDI program of each channel. @type {Record<number, number>} */
    this.programs = { [CHANNEL_PART]: ELECTRIC_PIANO, [CHANNEL_TAKE]: PIANO, [CHANNEL_LIVE]: PIANO, [CHANNEL_BACKING]: PIANO };
    /** The last message of each kind that sets something, for sounds that come later. @type {Map<string, TimedMessage>} */
    this.settings = new Map();
    this.lastPlayedMs = -Infinity;
    /** May sounds that have arrived be unpacked now? It takes the audio thread moments that a recording needs. */
    this.mayImprove = () => true;
    /** An instrument that sounds instead of this computer.
     * @type {{play(events: TimedMessage[]): void, click(time: number, isFirst: boolean, volume: number): void, hush(): void} | null} */
    this.outside = null;
  }

  /** Wake the audio clock (needs a gesture of the user). The click sounds from now on, and notes, at first by a simple sound;
   * the sounds themselves are loaded meanwhile. */
  async open() {
    await this.context.resume();
    this.bank.start(this.context, this.firstSounds);
  }

  /** Wait for the sounds of some channels, as far as they come in time. What has not come sounds simpler.
   * @param {Iterable<number>} channels */
  async ready(channels) {
    await this.open();
    await this.bank.require([...new Set([...channels].map((channel) => this.soundOf(channel)))]);
  }

  /** The name of a channel's sound. @param {number} channel */
  soundOf(channel) {
    return channel in this.programs ? String(this.programs[channel]) : KIT;
  }

  get isReady() {
    return !this.bank.isEmpty;
  }

  /** What somebody sounds like; takes sound as one plays oneself. @param {number} program */
  playWith(program) {
    if (this.firstSounds[0] === String(this.programs[CHANNEL_LIVE])) this.firstSounds[0] = String(program);
    for (const channel of [CHANNEL_TAKE, CHANNEL_LIVE]) {
      this.programs[channel] = program;
      this.play([[0, PROGRAM | channel, program, 0]]);
    }
    if (this.bank.node) this.bank.request(String(program));
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

  /** @param {TimedMessage[]} events time 0 means at once */
  play(events) {
    this.lastPlayedMs = performance.now();
    if (this.outside) return this.outside.play(events);
    for (const event of events) {
      const [time, status, data1] = event;
      const kind = status & 0xf0;
      if (begins(event)) this.bank.request(this.soundOf(status & 0x0f));
      if (time === 0 && kind === CONTROL && [VOLUME, PAN].includes(data1)) this.settings.set(`${status} ${data1}`, event);
    }
    // A note begins in the sound of its channel, if that is there; where it ends is known to both.
    const isSimple = (/** @type {TimedMessage} */ event) => begins(event) && !this.bank.has(this.soundOf(event[1] & 0x0f));
    this.send(events.filter((event) => !isSimple(event)));
    this.simple.play(events.filter((event) => !begins(event) || isSimple(event)));
  }

  /** Hand messages to the worklet. @param {TimedMessage[]} events */
  send(events) {
    this.bank.node?.port.postMessage({ type: "play", events });
  }

  /** Tell the worklet what it must know of before it plays. */
  sendSettings() {
    const programs = Object.entries(this.programs).map(([channel, program]) => /** @type {TimedMessage} */ ([0, PROGRAM | Number(channel), program, 0]));
    this.send([...programs, ...this.settings.values()]);
  }

  /** Pedal up, no bend, no modulation. @param {number} channel */
  atRest(channel) {
    const to = [channel, KITS[channel]];
    this.play(to.flatMap((c) => [[0, CONTROL | c, PEDAL, 0], [0, CONTROL | c, MODULATION, 0], [0, BEND | c, 0, 64]]));
  }

  /** Forget all that is scheduled; end what sounds. */
  hush() {
    this.outside?.hush();
    this.bank.node?.port.postMessage({ type: "hush" });
    this.simple.hush();
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
    source.buffer = this.clickBuffer(this.clickSound || how.sound, isFirst);
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
