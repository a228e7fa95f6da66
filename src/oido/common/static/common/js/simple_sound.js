/** A simple sound by the browser's own means: until the sounds are there, and where they cannot be loaded. */

const [NOTE_OFF, NOTE_ON, CONTROL] = [0x80, 0x90, 0xb0];
const [VOLUME, ALL_NOTES_OFF] = [7, 123];
/** Channels from here on are kits. */
const FIRST_KIT = 9;
const [ATTACK_S, RELEASE_S, DRUM_S, LONGEST_S] = [0.005, 0.08, 0.12, 4];
const FULL = 0.28;
const [TUNING_HZ, TUNING_PITCH] = [440, 69];
const LOWEST_DRUM = 35;
const [DRUM_HZ, DRUM_STEP_HZ] = [90, 24];

export class SimpleSound {
  /** @param {BaseAudioContext} context */
  constructor(context) {
    this.context = context;
    /** @type {Map<string, {gain: GainNode, source: OscillatorNode}>} by channel and pitch */
    this.voices = new Map();
    /** @type {Map<number, number>} */
    this.volumes = new Map();
  }

  /** @param {TimedMessage[]} events */
  play(events) {
    for (const [time, status, data1, data2] of events) {
      const [kind, channel] = [status & 0xf0, status & 0x0f];
      const at = Math.max(time, this.context.currentTime);
      if (kind === NOTE_ON && data2 > 0) this.begin(channel, data1, data2, at);
      else if (kind === NOTE_OFF || kind === NOTE_ON) this.end(`${channel} ${data1}`, at);
      else if (kind === CONTROL && data1 === VOLUME) this.volumes.set(channel, data2 / 127);
      else if (kind === CONTROL && data1 === ALL_NOTES_OFF) this.hush();
    }
  }

  /** @param {number} channel @param {number} pitch @param {number} velocity @param {number} at */
  begin(channel, pitch, velocity, at) {
    const isKit = channel >= FIRST_KIT;
    this.end(`${channel} ${pitch}`, at);
    const source = this.context.createOscillator();
    const gain = this.context.createGain();
    const lasts = isKit ? DRUM_S : LONGEST_S;
    source.type = isKit ? "square" : "triangle";
    source.frequency.value = isKit ? DRUM_HZ + DRUM_STEP_HZ * Math.max(0, pitch - LOWEST_DRUM) : TUNING_HZ * 2 ** ((pitch - TUNING_PITCH) / 12);
    const loudness = FULL * (velocity / 127) ** 1.5 * (this.volumes.get(channel) ?? 1) * (isKit ? 0.5 : 1);
    gain.gain.setValueAtTime(0, at);
    gain.gain.linearRampToValueAtTime(loudness, at + ATTACK_S);
    gain.gain.exponentialRampToValueAtTime(Math.max(1e-4, loudness / 50), at + lasts);
    source.connect(gain).connect(this.context.destination);
    source.start(at);
    source.stop(at + lasts);
    if (!isKit) this.voices.set(`${channel} ${pitch}`, { gain, source });
  }

  /** @param {string} key @param {number} at */
  end(key, at) {
    const voice = this.voices.get(key);
    if (!voice) return;
    this.voices.delete(key);
    voice.gain.gain.cancelScheduledValues(at);
    voice.gain.gain.setTargetAtTime(0, at, RELEASE_S / 3);
    voice.source.stop(at + RELEASE_S);
  }

  hush() {
    for (const key of [...this.voices.keys()]) this.end(key, this.context.currentTime);
  }
}
