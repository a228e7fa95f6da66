/**
 * Sound on the audio clock: the synthesizer in its worklet, and the click.
 *
 * All times are seconds of the AudioContext's clock.
 */

const READY_TIMEOUT_MS = 20000;
const CLICK_S = 0.04;
const CLICK_HIGH_HZ = 1760;
const CLICK_LOW_HZ = 1175;
export const NOTE_ON = 0x90;
export const NOTE_OFF = 0x80;
const PROGRAM = 0xc0;

export const CHANNEL_PART = 0;
export const CHANNEL_TAKE = 1;
export const CHANNEL_LIVE = 2;
export const CHANNEL_DRUMS = 9;
const ELECTRIC_PIANO = 4;

export class Sound {
  /** @param {{worklet: string, bank: string}} urls */
  constructor(urls) {
    this.urls = urls;
    this.context = new AudioContext({ latencyHint: "interactive" });
    /** @type {AudioWorkletNode | null} */
    this.node = null;
    /** @type {AudioBufferSourceNode[]} */
    this.clicks = [];
    this.clickHigh = this.clickBuffer(CLICK_HIGH_HZ);
    this.clickLow = this.clickBuffer(CLICK_LOW_HZ);
    /** @type {Promise<void> | null} */
    this.opening = null;
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
  }

  get isReady() {
    return this.node !== null;
  }

  /** @param {TimedMessage[]} events time 0 means at once */
  play(events) {
    this.node?.port.postMessage({ type: "play", events });
  }

  /** Forget all that is scheduled; end what sounds. */
  hush() {
    this.node?.port.postMessage({ type: "hush" });
    for (const click of this.clicks) click.stop();
    this.clicks = [];
  }

  /**
   * @param {number} time
   * @param {boolean} isFirst the first beat of a bar
   */
  click(time, isFirst) {
    const source = this.context.createBufferSource();
    source.buffer = isFirst ? this.clickHigh : this.clickLow;
    source.connect(this.context.destination);
    source.start(time);
    this.clicks.push(source);
    source.onended = () => {
      this.clicks = this.clicks.filter((other) => other !== source);
    };
  }

  /** @param {number} hz */
  clickBuffer(hz) {
    const rate = this.context.sampleRate;
    const buffer = this.context.createBuffer(1, Math.round(CLICK_S * rate), rate);
    const samples = buffer.getChannelData(0);
    for (let n = 0; n < samples.length; n++) {
      const t = n / rate;
      samples[n] = 0.5 * Math.sin(2 * Math.PI * hz * t) * Math.exp(-t * 120);
    }
    return buffer;
  }
}
