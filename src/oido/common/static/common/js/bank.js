/**
 * The sounds of the worklet, loaded one by one in the order in which they are needed: of each a first version, which is
 * small, and then the full one, which takes its place.
 *
 * Unpacking samples takes moments of the audio thread. So it goes sample by sample, and only while it is quiet.
 */

/** So long sounds are waited for; what comes later replaces a simple sound. */
const MAX_WAIT_MS = 6000;
const LOOK_AGAIN_MS = 100;

/** @typedef {"first" | "full"} Version */

export class Bank {
  /** @param {SoundAddresses} addresses
   * @param {() => void} onSound a sound has come or was replaced: channels are to be set again */
  constructor(addresses, onSound) {
    this.addresses = addresses;
    this.onSound = onSound;
    /** @type {AudioWorkletNode | null} */
    this.node = null;
    /** @type {Promise<void> | null} */
    this.starting = null;
    /** Versions still to be loaded, in order; those that are there, or were tried. @type {[string, Version][]} */
    this.wanted = [];
    /** @type {Map<string, Version>} */
    this.loaded = new Map();
    /** @type {Set<string>} */
    this.tried = new Set();
    this.isLoading = false;
    this.isQuiet = () => true;
    /** Can what has arrived be unpacked at all, or is nothing gained by waiting? */
    this.mayUnpack = () => true;
    /** Sounds could not be loaded. */
    this.onTrouble = () => {};
    /** How much of the sound that is waited for is there, from 0 to 1; null once it is. @type {(share: number | null) => void} */
    this.onProgress = () => {};
    /** @type {(message: any) => void} */
    this.answered = () => {};
    /** What was fetched before there was a node. @type {Map<string, Promise<ArrayBuffer>>} */
    this.fetched = new Map();
  }

  get isEmpty() {
    return this.loaded.size === 0;
  }

  /** @param {string} name */
  has(name) {
    return this.loaded.has(name);
  }

  /** Fetch what is needed first while the page is read: sounding needs a gesture, fetching does not. @param {string} name */
  fetchAhead(name) {
    const fetching = this.read(this.addresses.sounds[name].first);
    fetching.catch(() => {});
    this.fetched.set(`${name} first`, fetching);
  }

  /** Begin, once. @param {AudioContext} context @param {string} name of the sound that is needed first */
  start(context, name) {
    this.want(name);
    this.starting ??= this.open(context);
  }

  /** @param {AudioContext} context */
  async open(context) {
    try {
      await context.audioWorklet.addModule(this.addresses.worklet);
      this.node = new AudioWorkletNode(context, "oido-synth", { numberOfInputs: 0, outputChannelCount: [2] });
      this.node.port.onmessage = ({ data }) => this.answered(data);
      this.node.connect(context.destination);
    } catch {
      // The simple sound stays; the next gesture tries again.
      this.starting = null;
      return this.onTrouble();
    }
    this.work();
  }

  /** @param {string} name of a sound, whose first version is wanted before all full ones */
  want(name) {
    const { first, full } = this.addresses?.sounds[name] ?? {};
    for (const version of /** @type {Version[]} */ (first === full ? ["full"] : ["first", "full"])) {
      const key = `${name} ${version}`;
      if (!first || this.tried.has(key)) continue;
      this.tried.add(key);
      this.wanted.push([name, version]);
    }
    const isSmall = (/** @type {[string, Version]} */ [one, version]) => version === "first" || this.addresses.sounds[one].first === this.addresses.sounds[one].full;
    this.wanted.sort((a, b) => Number(isSmall(b)) - Number(isSmall(a)));
  }

  /** Wait for sounds, but not for ever. @param {string[]} names */
  async require(names) {
    for (const name of names) this.want(name);
    this.work();
    const until = performance.now() + MAX_WAIT_MS;
    const isThere = () => names.every((name) => this.has(name) || !this.wanted.some(([one]) => one === name));
    while (!isThere() && this.mayUnpack() && performance.now() < until) await new Promise((done) => setTimeout(done, LOOK_AGAIN_MS / 4));
  }

  /** Load what is wanted, one after the other. */
  async work() {
    if (this.isLoading || !this.node) return;
    this.isLoading = true;
    while (this.wanted.length > 0) {
      const [name, version] = this.wanted[0];
      try {
        await this.load(name, version);
      } catch {
        // Without it the version before, or a simple sound, goes on. It is tried again when the sound is next asked for.
        this.tried.delete(`${name} ${version}`);
        this.onTrouble();
      }
      this.wanted = this.wanted.filter(([one, other]) => one !== name || other !== version);
    }
    this.isLoading = false;
  }

  /** @param {string} name @param {Version} version */
  async load(name, version) {
    const key = `${name} ${version}`;
    const fetching = this.fetched.get(key) ?? this.read(this.addresses.sounds[name][version]);
    this.fetched.delete(key);
    const data = await fetching;
    let { left } = await this.ask({ type: "bank", name, data }, [data]);
    while (left > 0) {
      if (!this.isQuiet()) await new Promise((done) => setTimeout(done, LOOK_AGAIN_MS));
      else ({ left } = await this.ask({ type: "unpack", name }));
    }
    this.loaded.set(name, version);
    this.onSound();
    if (this.loaded.size === 1) this.onProgress(null);
  }

  /** @param {object} message @param {Transferable[]} [moved] @returns {Promise<{left: number}>} */
  ask(message, moved = []) {
    return new Promise((resolve, reject) => {
      this.answered = (answer) => (answer.type === "failed" ? reject(new Error(answer.reason)) : resolve(answer));
      /** @type {AudioWorkletNode} */ (this.node).port.postMessage(message, moved);
    });
  }

  /** @param {string} url */
  async read(url) {
    const response = await fetch(url);
    if (!response.ok || !response.body) throw new Error(`sounds: ${response.status}`);
    const size = Number(response.headers.get("Content-Length"));
    const reader = response.body.getReader();
    /** @type {Uint8Array[]} */
    const pieces = [];
    let length = 0;
    for (let piece = await reader.read(); !piece.done; piece = await reader.read()) {
      pieces.push(piece.value);
      length += piece.value.length;
      if (size && this.isEmpty) this.onProgress(Math.min(1, length / size));
    }
    const data = new Uint8Array(length);
    let at = 0;
    for (const piece of pieces) {
      data.set(piece, at);
      at += piece.length;
    }
    return data.buffer;
  }
}
