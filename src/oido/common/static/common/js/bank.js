/**
 * The sounds of the worklet, loaded one by one in the order in which they are needed: of each a first version, which is
 * small, and then the full one, which takes its place.
 *
 * Unpacking samples takes moments of the audio thread. So it goes sample by sample, and only while it is quiet, or somebody waits
 * for the sound.
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
    /** Sounds whose versions are still to be loaded, in order; full ones come when no first one is missing.
     * @type {Record<Version, string[]>} */
    this.wanted = { first: [], full: [] };
    /** @type {Map<string, Version>} */
    this.loaded = new Map();
    /** Sounds that were asked for, whether they have come or not. @type {Set<string>} */
    this.requested = new Set();
    /** Sounds that somebody waits for in silence. @type {Set<string>} */
    this.awaited = new Set();
    /** @type {Record<Version, boolean>} */
    this.isLoading = { first: false, full: false };
    this.isQuiet = () => true;
    /** Can what has arrived be unpacked at all, or is nothing gained by waiting? */
    this.mayUnpack = () => true;
    /** Sounds could not be loaded. */
    this.onTrouble = () => {};
    /** How much of the sound that is waited for is there, from 0 to 1; null once it is. @type {(share: number | null) => void} */
    this.onProgress = () => {};
    /** @type {(message: any) => void} */
    this.answered = () => {};
    /** The worklet answers one question after the other. @type {Promise<unknown>} */
    this.lastAnswer = Promise.resolve();
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
    const url = this.addresses.sounds[name].first;
    const fetching = this.read(url);
    fetching.catch(() => {});
    this.fetched.set(url, fetching);
  }

  /** Begin, once. @param {AudioContext} context @param {string[]} names of the sounds that are needed first */
  start(context, names) {
    names.forEach((name) => this.request(name));
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

  /** A sound is needed, sooner or later. @param {string} name */
  request(name) {
    if (this.requested.has(name) || this.has(name) || !this.addresses?.sounds[name]) return;
    this.requested.add(name);
    const { first, full } = this.addresses.sounds[name];
    this.wanted.first.push(name);
    // A small sound has no other version.
    if (full !== first && !this.wanted.full.includes(name)) this.wanted.full.push(name);
    this.work();
  }

  /** Wait for sounds, but not for ever; what could not be loaded before is tried again. @param {string[]} names */
  async require(names) {
    names.forEach((name) => this.request(name));
    names.forEach((name) => this.awaited.add(name));
    const until = performance.now() + MAX_WAIT_MS;
    const isOver = () => names.every((name) => this.has(name) || !this.requested.has(name)) || !this.mayUnpack() || performance.now() > until;
    while (!isOver()) await new Promise((done) => setTimeout(done, LOOK_AGAIN_MS / 4));
    names.forEach((name) => this.awaited.delete(name));
  }

  /** Load what is wanted: first versions one after the other, and full ones when there is no first one to load. */
  async work() {
    if (!this.node) return;
    await this.loadAll("first");
    if (this.wanted.first.length === 0) await this.loadAll("full");
  }

  /** @param {Version} version */
  async loadAll(version) {
    if (this.isLoading[version]) return;
    this.isLoading[version] = true;
    for (const names = this.wanted[version]; names.length > 0; names.shift()) {
      try {
        await this.load(names[0], version);
      } catch {
        // Without it the first version, or a simple sound, stays. It is tried again when somebody waits for it.
        if (version === "first") this.requested.delete(names[0]);
        this.onTrouble();
      }
    }
    this.isLoading[version] = false;
  }

  /** @param {string} name @param {Version} version */
  async load(name, version) {
    const url = this.addresses.sounds[name][version];
    const fetching = this.fetched.get(url) ?? this.read(url);
    this.fetched.delete(url);
    const data = await fetching;
    const isFree = () => this.isQuiet() || (this.awaited.has(name) && this.mayUnpack());
    let { left } = await this.ask({ type: "bank", name, data }, [data]);
    while (left > 0) {
      if (isFree()) ({ left } = await this.ask({ type: "unpack", name }));
      else await new Promise((done) => setTimeout(done, LOOK_AGAIN_MS));
    }
    this.loaded.set(name, version);
    this.onSound();
    if (this.loaded.size === 1) this.onProgress(null);
  }

  /** Ask the worklet, once it has answered what it was asked before.
   * @param {object} message @param {Transferable[]} [moved] @returns {Promise<{left: number}>} */
  ask(message, moved = []) {
    const answer = this.lastAnswer.then(
      () =>
        /** @type {Promise<{left: number}>} */ (
          new Promise((resolve, reject) => {
            this.answered = (answered) => (answered.type === "failed" ? reject(new Error(answered.reason)) : resolve(answered));
            /** @type {AudioWorkletNode} */ (this.node).port.postMessage(message, moved);
          })
        ),
    );
    this.lastAnswer = answer.catch(() => {});
    return answer;
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
