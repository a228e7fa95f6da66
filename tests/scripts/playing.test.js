import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { afterEach, beforeEach, describe, mock, test } from "node:test";
import { Clock } from "../../src/oido/common/static/common/js/playing/clock.js";
import { Recorder } from "../../src/oido/common/static/common/js/playing/recorder.js";
import { Incoming } from "../../src/oido/stand/static/stand/js/incoming.js";
import { MidiOut } from "../../src/oido/stand/static/stand/js/midi_out.js";
import { Pads } from "../../src/oido/stand/static/stand/js/pads.js";
import { Reach } from "../../src/oido/stand/static/stand/js/reach.js";
import { BARS, element, fakeClock, fakePage, fakeSound, settled, standData } from "./fakes.js";

const realNow = performance.now;
let nowMs = 0;
beforeEach(() => {
  nowMs = 0;
  performance.now = () => nowMs;
  mock.timers.enable({ apis: ["setTimeout", "setInterval"] });
});
afterEach(() => {
  performance.now = realNow;
  mock.timers.reset();
});

/** A recorder on clocks that one moves. @param {Record<string, any>} [more] */
function recorder(more = {}) {
  const told = { beats: /** @type {Beat[]} */ ([]), ended: /** @type {any[]} */ ([]), positions: /** @type {number[]} */ ([]) };
  const context = { state: "running", get currentTime() { return nowMs / 1000; } };
  const sound = fakeSound({ context });
  const made = new Recorder(sound, fakeClock(), BARS, 1, {
    onBeat: (beat) => told.beats.push(beat), onPosition: (second) => told.positions.push(second), onEnd: (...all) => told.ended.push(all), onRound: () => {},
  });
  Object.assign(made, more);
  const wait = (/** @type {number} */ ms) => {
    for (const end = nowMs + ms; nowMs < end; ) {
      nowMs += 20;
      mock.timers.tick(20);
    }
  };
  return { made, sound, context, told, wait };
}

describe("the click of a recording", () => {
  test("counts in loudly, then sounds as the exercise says, with its divisions softer", async () => {
    const { made, sound } = recorder({ click: { on: true, sound: "tick", level: 0.8, divides: 2 }, clickVolume: 0.2 });
    await made.start();
    const clicks = sound.done.filter(([what]) => what === "click");
    assert.equal(clicks.length, 4 + 3 * 4 * 2);
    assert.deepEqual(clicks.slice(0, 4).map(([, time, isFirst, volume]) => [Math.round(100 * time) / 100, isFirst, volume]), [[0.25, true, 0.5], [0.75, false, 0.5], [1.25, false, 0.5], [1.75, false, 0.5]]);
    assert.deepEqual(clicks.slice(4, 7).map(([, time, isFirst, volume]) => [Math.round(100 * time) / 100, isFirst, volume]), [[2.25, true, 0.2], [2.5, false, 0.2], [2.75, false, 0.2]]);
  });

  test("is the count-in alone, where the exercise asks for no other", async () => {
    const { made, sound } = recorder({ click: { on: false, sound: "tick", level: 0.8, divides: 1 } });
    await made.start();
    assert.equal(sound.done.filter(([what]) => what === "click").length, 4);
  });

  test("is shown beat by beat, and the position goes on between", async () => {
    const { made, told, wait } = recorder();
    await made.start();
    wait(4300);
    assert.deepEqual(told.beats.slice(0, 6).map(({ bar, beat, isCountIn }) => [bar, beat, isCountIn]), [[0, 1, true], [0, 2, true], [0, 3, true], [0, 4, true], [1, 1, false], [1, 2, false]]);
    assert.ok(told.positions.every((second, k) => k === 0 || second >= told.positions[k - 1]));
    assert.ok(Math.abs((told.positions.at(-1) ?? 0) - 2.05) < 0.03);
  });

  test("goes on round after round, with what sounds along, and ends after the last", async () => {
    const { made, sound, told, wait } = recorder({ rounds: 2, along: [{ notes: [[1, 0.5, 60, 200]], channel: 2 }, { notes: [[9, 0.5, 62, 80]], channel: 2 }] });
    await made.start();
    const notes = () => sound.done.filter(([what]) => what === "play").flatMap(([, ...messages]) => messages);
    assert.deepEqual(notes().map(([time, status, pitch, velocity]) => [Math.round(100 * time) / 100, status, pitch, velocity]), [[3.25, 0x92, 60, 127], [3.75, 0x82, 60, 64]]);
    wait(2250 + 6000 - 900);
    assert.equal(notes().length, 4, "the next round is scheduled before it begins");
    wait(900 + 6000 + 800);
    assert.deepEqual(told.ended.map(([, ending]) => ending), ["itself"]);
  });

  test("that nobody hears any more ends the recording", async () => {
    const { made, told, context, wait } = recorder();
    await made.start();
    wait(3000);
    context.state = "interrupted";
    wait(1000);
    context.state = "running";
    wait(200);
    assert.deepEqual(told.ended, [], "it was a moment");
    context.state = "interrupted";
    wait(1600);
    assert.deepEqual(told.ended.map(([, ending]) => ending), ["stalled"]);
  });
});

describe("the clock", () => {
  /** A clock whose audio runs `offset` ms behind. */
  const clock = () => {
    const at = { contextTime: 0, performanceTime: 0 };
    const made = new Clock(/** @type {any} */ ({ getOutputTimestamp: () => ({ ...at }) }));
    const sample = (/** @type {number} */ offset, times = 1) => {
      for (let k = 0; k < times; k++) {
        at.contextTime += 0.025;
        at.performanceTime = 1000 * at.contextTime + offset;
        made.sample();
      }
    };
    return { made, sample, at };
  };

  test("takes the middle of what it sees, so that one bad pair moves nothing", () => {
    const { made, sample } = clock();
    sample(100, 20);
    sample(140);
    assert.equal(made.offsetMs, 100);
    assert.equal(made.audioTime(1100), 1);
  });

  test("that stands still tells nothing", () => {
    const { made, sample } = clock();
    sample(100, 3);
    const seen = made.samples.length;
    made.sample();
    made.sample();
    assert.equal(made.samples.length, seen);
  });

  test("has stumbled where many pairs in a row lie to one side, and is then what they say", () => {
    const { made, sample } = clock();
    sample(100, 50);
    sample(110, 5);
    assert.equal(made.offsetMs, 100);
    sample(110);
    assert.equal(made.offsetMs, 110);
  });

  test("is steady once fresh pairs agree for half a second", async () => {
    const { made, sample } = clock();
    sample(100, 30);
    assert.ok(made.isSteady);
    let isSteady = null;
    made.steady().then((answer) => (isSteady = answer));
    assert.ok(!made.isSteady, "what was seen before does not count");
    for (let k = 0; k < 25; k++) {
      sample(120);
      mock.timers.tick(25);
      await settled();
    }
    assert.equal(isSteady, true);
  });

  test("is waited for no longer than a few seconds", async () => {
    const { made, sample } = clock();
    let isSteady = null;
    made.steady().then((answer) => (isSteady = answer));
    for (let k = 0; k < 245; k++) {
      sample(k % 2 ? 100 : 130);
      mock.timers.tick(25);
      await settled();
    }
    assert.equal(isSteady, false);
  });
});

describe("what comes from the instrument", () => {
  /** @param {Record<string, any>} [more] */
  function incoming(more = {}) {
    const page = fakePage();
    const played = /** @type {any[]} */ ([]);
    const words = /** @type {any[]} */ ([]);
    const shown = /** @type {any[]} */ ([]);
    const sound = fakeSound();
    const pads = { hit: () => false, meant: (/** @type {number} */ n) => (n === 40 ? 38 : n), ...more.pads };
    const made = new Incoming(/** @type {any} */ ({
      root: page.root, data: standData(more.data), sound, pads, instrument: { show: (/** @type {any[]} */ ...all) => shown.push(all) },
      onPlayed: (/** @type {any} */ one) => played.push(one), onWords: (/** @type {any[]} */ ...all) => words.push(all),
    }));
    return { made, played, words, shown, sound };
  }
  const on = (/** @type {number} */ pitch, velocity = 80) => ({ timeStamp: 5, bytes: [0x90, pitch, velocity] });

  test("sounds at once, is handed on, and is named now and then", () => {
    const { made, played, words, sound } = incoming();
    made.receive(on(60));
    assert.deepEqual(sound.done[0][1].slice(2), [60, 80]);
    assert.deepEqual([played.length, words.length], [1, 0]);
    made.receive(on(62));
    mock.timers.tick(120);
    assert.deepEqual([played.length, words], [2, [[62, 80]]], "the newest is named");
  });

  test("lights its keys with the next frame, and a key that is let go is dark", () => {
    const { made, shown } = incoming();
    made.receive(on(60));
    made.receive(on(60, 0));
    made.receive(on(64));
    mock.timers.tick(1);
    assert.deepEqual(shown, [[60, false], [64, true]]);
  });

  test("of a kit is what its pads mean; a hit that was asked for goes nowhere", () => {
    const { made, played } = incoming({ data: { hasLanes: true } });
    made.receive(on(40));
    assert.deepEqual([played[0].pitch, played[0].input.bytes[1]], [38, 40], "what was sent is what is sent on");
    const asked = incoming({ pads: { hit: () => true } });
    asked.made.receive(on(40));
    assert.deepEqual([asked.played, asked.sound.done], [[], []]);
  });

  test("is no note where it is a pedal", () => {
    const { made, played, shown } = incoming();
    made.receive({ timeStamp: 5, bytes: [0xb0, 64, 127] });
    mock.timers.tick(200);
    assert.deepEqual([played[0].isOn, shown], [false, []]);
  });
});

describe("pads", () => {
  test("are set up by one hit for each lane, and never twice by the same", () => {
    const said = element();
    const root = element({ querySelector: (/** @type {string} */ what) => (what === "[data-pads-state]" ? said : null) });
    const pads = new Pads(root, [{ name: "kick", pitch: 36 }, { name: "snare", pitch: 38 }], () => "midi|Test pads");
    assert.equal(pads.hit(35), false, "nobody asked");
    pads.begin();
    assert.equal(said.textContent, "Hit your kick.");
    assert.ok(pads.hit(35));
    assert.ok(pads.hit(35));
    assert.equal(said.textContent, "That pad is your kick. Hit your snare.");
    pads.hit(37);
    assert.equal(said.textContent, "All pads are set up.");
    assert.deepEqual([pads.map, pads.meant(35), pads.meant(42)], [{ 35: 36, 37: 38 }, 36, 42]);
    pads.forget();
    assert.deepEqual(pads.map, {});
  });
});

describe("what typing keys reach", () => {
  const REACH = { notes: 3, from_best: 2, best: 62, by_two_hands: 3, layout: { KeyA: 60 }, easier: "Harbour walk" };
  /** @param {boolean} isTyped @param {any} reach */
  const shown = (isTyped, reach = REACH, layout = new Map([["KeyA", 60]])) => {
    const place = element();
    const laid = /** @type {any[]} */ ([]);
    globalThis.document.createElement = /** @type {any} */ (() => element());
    const source = { homeAt: (/** @type {number} */ pitch) => laid.push(pitch), lay: (/** @type {any} */ one) => laid.push([...one]) };
    const check = { row: { isTyped }, source, listeners: { name: String } };
    const made = new Reach(place, standData({ reach }), /** @type {any} */ (check));
    made.show(layout, /** @type {any} */ ({ from: 1, to: 3, mine: [] }), 1);
    return { place, laid };
  };

  test("is said before anything is recorded, with what reaches more", () => {
    const { place, laid } = shown(true);
    assert.match(place.textContent, /^Typing keys reach 1 of these 3 notes\./);
    const buttons = place.children.filter((/** @type {any} */ child) => child.className === "word");
    assert.deepEqual(buttons.map((/** @type {any} */ one) => one.textContent), ["Home note 62: 2 of 3", "Layout for two hands: 3 of 3"]);
    for (const button of buttons) button.click();
    assert.deepEqual(laid, [62, [["KeyA", 60]]]);
  });

  test("is no matter where all is reached, or where one plays on something else", () => {
    assert.equal(shown(false).place.textContent, "");
    assert.equal(shown(true, REACH, new Map([["KeyA", 60], ["KeyS", 62], ["KeyD", 64]])).place.textContent, "");
    assert.equal(shown(true, null).place.textContent, "");
  });
});

describe("the student’s own instrument", () => {
  test("is sent what is due soon, in order, and forgets the rest when it is hushed", async () => {
    const sent = /** @type {any[]} */ ([]);
    const output = { name: "Keys", state: "connected", send: (/** @type {number[]} */ bytes, /** @type {number} */ at) => sent.push([bytes[0], at]) };
    const access = { outputs: new Map([["1", output]]), addEventListener: () => {} };
    Object.defineProperty(globalThis, "navigator", { value: { requestMIDIAccess: async () => access }, configurable: true });
    globalThis.Option ??= /** @type {any} */ (class { constructor(/** @type {string} */ text, /** @type {string} */ value) { Object.assign(this, { text, value }); } });
    const page = fakePage();
    const sound = /** @type {any} */ ({ outside: null });
    const out = new MidiOut(/** @type {any} */ ({ find: page.find, sound, clock: fakeClock(), check: { row: { hasDevices: false } } }));
    await out.list();
    out.choose("Keys");
    assert.equal(sound.outside, out);
    sent.length = 0;
    out.play([[1, 0x80, 60, 64], [0.05, 0x90, 60, 80]]);
    assert.deepEqual(sent, [[0x90, 50]]);
    nowMs = 900;
    out.send();
    assert.deepEqual(sent.at(-1), [0x80, 1000]);
    out.play([[5, 0x90, 60, 80]]);
    out.hush();
    nowMs = 6000;
    out.send();
    assert.ok(!sent.some(([status, at]) => status === 0x90 && at > 60));
  });
});
