/**
 * The synthesizer, on the audio thread. It plays MIDI messages at exact frames of the audio
 * clock: each block is split where a message falls.
 *
 * In:  {type: "bank", data: ArrayBuffer}
 *      {type: "play", events: [[time_s, status, data1, data2], …]}   time 0: at once
 *      {type: "hush"}   forget what is scheduled and end all notes
 * Out: {type: "ready"} or {type: "failed", reason}
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
    /** @type {[number, number, number, number][]} in order of time */
    this.queue = [];
    this.port.onmessage = ({ data }) => this.receive(data);
  }

  receive(message) {
    if (message.type === "bank") {
      this.load(message.data).catch((error) =>
        this.port.postMessage({ type: "failed", reason: String(error) }),
      );
    } else if (message.type === "play") {
      this.queue.push(...message.events);
      this.queue.sort((a, b) => a[0] - b[0]);
    } else if (message.type === "hush") {
      this.queue = [];
      this.synth.stopAllChannels(true);
    }
  }

  async load(data) {
    await BasicSoundBank.isSF3DecoderReady;
    await this.synth.processorInitialized;
    const bank = SoundBankLoader.fromArrayBuffer(data);
    // Decode every sample now: decoding at the first stroke would stall the sound.
    for (const sample of bank.samples) sample.getAudioData();
    this.synth.soundBankManager.addSoundBank(bank, "oido");
    for (const channel of KITS) this.synth.midiChannels[channel].setDrums(true);
    this.ready = true;
    this.port.postMessage({ type: "ready" });
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
