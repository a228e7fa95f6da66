/**
 * The synthesizer, on the audio thread. It plays MIDI messages at exact frames of the audio
 * clock: each block is split where a message falls.
 *
 * In:  {type: "bank", name, data: ArrayBuffer}   a sound, or a fuller version of one
 *      {type: "unpack", name}   its next sample
 *      {type: "play", events: [[time_s, status, data1, data2], …]}   time 0: at once
 *      {type: "hush"}   forget what is scheduled and end all notes
 * Out: {type: "left", left} how many samples are still to be unpacked; with none the sound is there. Or {type: "failed", reason}.
 */
import { BasicSoundBank, SoundBankLoader, SpessaSynthProcessor } from "spessasynth_core";

const BLOCK = 128;
const NOTE_ON = 0x90;
const NOTE_OFF = 0x80;
const KEY_PRESSURE = 0xa0;
const CONTROL = 0xb0;
const PROGRAM = 0xc0;
const PRESSURE = 0xd0;
const BEND = 0xe0;
/** Channels that are kits: the standard's own, and three beside it, so that each has a volume. */
const KITS = [9, 10, 11, 12];

class Synth extends AudioWorkletProcessor {
  constructor() {
    super();
    this.synth = new SpessaSynthProcessor(sampleRate, { eventsEnabled: false });
    this.ready = false;
    /** @type {Map<string, {bank: BasicSoundBank, samples: object[]}>} sounds that are being unpacked, by name */
    this.packed = new Map();
    this.versions = 0;
    /** @type {[number, number, number, number][]} in order of time */
    this.queue = [];
    this.port.onmessage = ({ data }) => this.receive(data);
  }

  receive(message) {
    const answered = { bank: () => this.open(message.name, message.data), unpack: () => this.unpack(message.name) }[message.type];
    if (answered) {
      answered().then(
        (left) => this.port.postMessage({ type: "left", left }),
        (error) => this.port.postMessage({ type: "failed", reason: String(error) }),
      );
    } else if (message.type === "play") {
      this.queue.push(...message.events);
      this.queue.sort((a, b) => a[0] - b[0]);
    } else if (message.type === "hush") {
      this.queue = [];
      this.synth.stopAllChannels(true);
    }
  }

  /** Open a sound. Its samples are unpacked before it is used: to do so at the first stroke would stall the sound. */
  async open(name, data) {
    await BasicSoundBank.isSF3DecoderReady;
    await this.synth.processorInitialized;
    const bank = SoundBankLoader.fromArrayBuffer(data);
    this.packed.set(name, { bank, samples: [...bank.samples] });
    return bank.samples.length;
  }

  async unpack(name) {
    const { bank, samples } = this.packed.get(name);
    samples.pop()?.getAudioData();
    if (samples.length === 0) this.use(name, bank);
    return samples.length;
  }

  /** A sound is there from now on; one of the same name before it is not any more. */
  use(name, bank) {
    const { soundBankManager: banks, midiChannels } = this.synth;
    this.packed.delete(name);
    this.versions += 1;
    const before = banks.soundBankList.find((one) => one.id.startsWith(`${name} `));
    banks.addSoundBank(bank, `${name} ${this.versions}`);
    if (before) banks.deleteSoundBank(before.id);
    for (const channel of KITS) midiChannels[channel].setDrums(true);
    this.ready = true;
  }

  /** @param {Float32Array[][]} _inputs @param {Float32Array[][]} outputs */
  process(_inputs, outputs) {
    if (!this.ready) return true;
    const [left, right] = outputs[0];
    let done = 0;
    while (this.queue.length > 0) {
      const frame = Math.max(0, Math.round((this.queue[0][0] - currentTime) * sampleRate));
      if (frame >= BLOCK) break;
      if (frame > done) {
        this.synth.process(left, right, done, frame - done);
        done = frame;
      }
      this.send(this.queue.shift());
    }
    if (done < BLOCK) this.synth.process(left, right, done, BLOCK - done);
    return true;
  }

  send([, status, data1, data2]) {
    const channel = status & 0x0f;
    switch (status & 0xf0) {
      case NOTE_ON:
        this.synth.noteOn(channel, data1, data2);
        break;
      case NOTE_OFF:
        this.synth.noteOff(channel, data1);
        break;
      case KEY_PRESSURE:
        this.synth.polyPressure(channel, data1, data2);
        break;
      case PRESSURE:
        this.synth.channelPressure(channel, data1);
        break;
      case BEND:
        this.synth.pitchWheel(channel, data1 | (data2 << 7));
        break;
      case CONTROL:
        this.synth.controllerChange(channel, data1, data2);
        break;
      case PROGRAM:
        this.synth.programChange(channel, data1);
        break;
    }
  }
}

registerProcessor("oido-synth", Synth);
