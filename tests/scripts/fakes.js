/** Stand-ins for what scripts meet: elements, sound, clocks, sources, the server. No browser is needed. */

/** As much of an element as scripts ask for. @param {Record<string, unknown>} [more] @returns {any} */
export function element(more = {}) {
  /** @type {Map<string, ((event: any) => void)[]>} */
  const listeners = new Map();
  const names = new Set();
  /** @type {any} */
  const made = {
    textContent: "", hidden: false, disabled: false, value: "", open: false, innerHTML: "", dataset: {}, style: {}, children: [],
    classList: {
      add: (/** @type {string[]} */ ...all) => all.forEach((name) => names.add(name)),
      remove: (/** @type {string[]} */ ...all) => all.forEach((name) => names.delete(name)),
      toggle: (/** @type {string} */ name, /** @type {boolean} */ isOn) => (isOn ? names.add(name) : names.delete(name)),
      contains: (/** @type {string} */ name) => names.has(name),
    },
    addEventListener: (/** @type {string} */ type, /** @type {(event: any) => void} */ act) => listeners.set(type, [...(listeners.get(type) ?? []), act]),
    removeEventListener: (/** @type {string} */ type, /** @type {(event: any) => void} */ act) => listeners.set(type, (listeners.get(type) ?? []).filter((one) => one !== act)),
    dispatchEvent: (/** @type {any} */ event) => (listeners.get(event.type) ?? []).forEach((act) => act(event)),
    click: () => made.dispatchEvent({ type: "click", target: made }),
    replaceChildren: (/** @type {any[]} */ ...children) => {
      made.children = children;
      made.textContent = children.map((child) => child.textContent ?? child).join("");
    },
    append: (/** @type {any[]} */ ...children) => made.replaceChildren(...made.children, ...children),
    hasChildNodes: () => made.children.length > 0,
    insertAdjacentHTML: (/** @type {string} */ _where, /** @type {string} */ html) => made.children.push({ textContent: html, remove: () => made.children.shift() }),
    get firstElementChild() {
      return made.children[0];
    },
    querySelector: () => null,
    querySelectorAll: () => [],
    focus: () => {},
    blur: () => {},
    showModal: () => (made.open = true),
    close: () => (made.open = false),
    ...more,
  };
  return made;
}

/** A page whose places are made when they are asked for. */
export function fakePage() {
  /** @type {Map<string, any>} */
  const places = new Map();
  /** @type {string[]} */
  const said = [];
  const find = (/** @type {string} */ what) => {
    if (!places.has(what)) places.set(what, element());
    return places.get(what);
  };
  const root = element({ dataset: { user: "7", upload: "/assignments/1/takes/", loops: "/loops/" } });
  return { find, said, root, say: (/** @type {string} */ words) => said.push(words) };
}

/** Three bars of 2 s, and a note on each beat of the first, for the right hand. */
export const BARS = [1, 2, 3].map((number) => ({
  number, start: 2 * (number - 1), end: 2 * number, start_tick: 0, end_tick: 0,
  beats: [0, 0.5, 1, 1.5].map((at) => at + 2 * (number - 1)),
}));

/** What a page gives its scripts. @param {Record<string, unknown>} [more] @returns {any} */
export function standData(more = {}) {
  return {
    hasLanes: false, bars: BARS, target: [[0, 0.5, 60, 80], [0.5, 0.5, 62, 80], [2, 0.5, 64, 80]], voices: ["right", "right", "left"],
    cues: [], pedal: [], fifths: 0, ownFifths: 0, layout: {}, typing: null, pads: [], take: null, backing: null, byEar: null, listenFirst: null,
    bpm: 120, part: 5, countInBars: 1, middleC: 4, passes: 1, countsAfter: 1, lanes: {}, fingers: [], allowedNotes: [], compass: [60, 64], reach: null,
    click: { on: true, sound: "tick", level: 0.8, divides: 1 }, ...more,
  };
}

/** A sound engine that notes what it is told. @param {Record<string, unknown>} [more] @returns {any} */
export function fakeSound(more = {}) {
  const done = /** @type {any[]} */ ([]);
  return {
    done, isReady: true, clickVolume: 0.5, context: { currentTime: 10, state: "running", destination: {} },
    open: async () => {}, ready: async () => {}, hush: () => done.push(["hush"]), atRest: () => {}, setApart: () => {},
    click: (/** @type {number} */ time, /** @type {boolean} */ isFirst, /** @type {any} */ _rules, /** @type {number} */ volume) => done.push(["click", time, isFirst, volume]),
    play: (/** @type {any[]} */ messages) => done.push(["play", ...messages]), ...more,
  };
}

/** Clocks that agree: an event of n ms is n / 1000 s of the sound. @param {Record<string, unknown>} [more] @returns {any} */
export function fakeClock(more = {}) {
  return { offsetMs: 0, isSteady: true, steady: async () => true, audioTime: (/** @type {number} */ ms) => ms / 1000, ...more };
}

/** A player that plays until it is stopped. @param {Record<string, unknown>} [more] @returns {any} */
export function fakePlayer(more = {}) {
  /** @type {any} */
  const player = {
    data: null, order: { what: "nothing", rate: 1 }, isPlaying: false, stops: 0, rates: [], channelsOf: () => [0],
    play: async (/** @type {any} */ order) => {
      player.order = order;
      player.isPlaying = true;
    },
    stop: () => {
      player.isPlaying = false;
      player.stops += 1;
    },
    changeRate: (/** @type {number} */ rate) => player.rates.push(rate),
    ...more,
  };
  return player;
}

/** How it is played: all bars at 120, both hands. @param {Record<string, unknown>} [more] @returns {any} */
export function fakeHow(more = {}) {
  return {
    bpm: 120, practiceCountIn: 1, isAll: true, speaks: "bars", voices: [], isOn: () => false, setTempo: () => {},
    chosen: { from: 1, to: 3, loop: false, mine: [], silent: [], bpm: 120 }, ...more,
  };
}

/** A view of the music that is open or not. @returns {any} */
export function fakeView() {
  /** @type {any} */
  const view = { isOpen: false, second: 0, barAt: () => BARS[1], drawKeys: () => {}, open: () => (view.isOpen = true), close: () => (view.isOpen = false) };
  return view;
}

/** A server: answers in the order in which they are asked for, or the last one for ever. @param {any[]} answers */
export function serve(...answers) {
  /** @type {{url: string, body: any}[]} */
  const asked = [];
  const before = globalThis.fetch;
  globalThis.fetch = /** @type {any} */ (async (/** @type {string} */ url, /** @type {any} */ how = {}) => {
    asked.push({ url, body: typeof how.body === "string" ? JSON.parse(how.body) : how.body });
    const answer = answers.length > 1 ? answers.shift() : answers[0];
    if (answer instanceof Error) throw answer;
    const { status = 200, json = {}, text = JSON.stringify(json), headers = {} } = await answer;
    return { ok: status < 400, status, json: async () => json, text: async () => text, arrayBuffer: async () => new ArrayBuffer(8), headers: new Map(Object.entries(headers)) };
  });
  return { asked, end: () => (globalThis.fetch = before) };
}

/** Everything that waits for nothing but its turn has had it. */
export async function settled() {
  for (let k = 0; k < 20; k++) await Promise.resolve();
  await new Promise((done) => setImmediate(done));
}

/** A promise that is kept when one says so. @returns {{promise: Promise<any>, keep: (value?: any) => void, breakIt: (why: Error) => void}} */
export function later() {
  let keep = /** @type {(value?: any) => void} */ (() => {});
  let breakIt = /** @type {(why: Error) => void} */ (() => {});
  const promise = new Promise((resolve, reject) => ([keep, breakIt] = [resolve, reject]));
  return { promise, keep, breakIt };
}
