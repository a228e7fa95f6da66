import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { inWords } from "../../src/oido/common/static/common/js/dates.js";
import { pitchName } from "../../src/oido/common/static/common/js/playing/instrument.js";
import { describeBars } from "../../src/oido/common/static/common/js/texts.js";
import { leftOf, describePass, soundsAlong } from "../../src/oido/stand/static/stand/js/along.js";
import { askedFor } from "../../src/oido/stand/static/stand/js/asked.js";
import { Clock } from "../../src/oido/common/static/common/js/playing/clock.js";
import { Follower } from "../../src/oido/stand/static/stand/js/follower.js";
import { MidiOut } from "../../src/oido/stand/static/stand/js/midi_out.js";
import { ALL, MidiSource } from "../../src/oido/common/static/common/js/playing/sources/midi.js";
import { stepped } from "../../src/oido/stand/static/stand/js/in_words.js";
import { keyOf, newest } from "../../src/oido/stand/static/stand/js/settings.js";
import { barsAt, notesAt, ownNotes } from "../../src/oido/stand/static/stand/js/how.js";

const BARS = [1, 2, 3].map((number) => ({ number, start: 2 * (number - 1), end: 2 * number, beats: [0, 0.5, 1, 1.5].map((at) => at + 2 * (number - 1)) }));
const DATA = { bpm: 120, hasLanes: false, bars: BARS, target: [[0, 1, 60, 80], [0, 1, 40, 70], [2, 1, 62, 80]], voices: ["right", "left", "right"], backing: null };

describe("all devices at once", () => {
  test("say which one went", async () => {
    const device = (/** @type {string} */ name) => ({ id: name, name, state: "connected", onmidimessage: null });
    const inputs = new Map(["Keys", "Pedals"].map((name) => [name, device(name)]));
    const access = /** @type {any} */ ({ inputs, onstatechange: null });
    Object.defineProperty(globalThis, "navigator", { value: { requestMIDIAccess: async () => access }, configurable: true });
    /** @type {string[]} */
    const lost = [];
    const source = new MidiSource(() => {}, () => {}, () => {}, (name) => lost.push(name), ALL);
    await source.start();
    assert.equal(source.device, "Keys + Pedals");
    inputs.delete("Pedals");
    access.onstatechange();
    inputs.set("Pads", device("Pads"));
    access.onstatechange();
    assert.deepEqual(lost, ["Pedals"]);
  });
});

describe("names of keys", () => {
  test("are those of the key, with the seventh of its minor key raised", () => {
    const scale = (/** @type {number} */ fifths) => Array.from({ length: 12 }, (_, k) => pitchName(60 + k, fifths, 4)).join(" ");
    assert.equal(scale(0), "C4 C♯4 D4 E♭4 E4 F4 F♯4 G4 G♯4 A4 B♭4 B4");
    assert.equal(pitchName(73, -1, 4), "C♯5", "D minor");
    assert.equal(pitchName(78, -2, 4), "F♯5", "G minor");
    assert.equal(scale(-6), "C4 D♭4 D4 E♭4 F♭4 F4 G♭4 G4 A♭4 B𝄫4 B♭4 C♭5".replace("B𝄫4", "B♭♭4"));
    assert.equal(pitchName(60, 7, 4), "B♯3");
  });
});

describe("dates", () => {
  test("are said with their day", () => {
    assert.equal(inWords("2026-12-07", "en-gb"), "Monday 7 December 2026");
    assert.equal(inWords("", "en-gb"), "");
  });
});

describe("tempo", () => {
  test("notes and bars are at the rate that is asked for", () => {
    assert.deepEqual(notesAt([[2, 1, 60, 80]], 0.5), [[4, 2, 60, 80]]);
    const [bar] = barsAt(BARS.slice(1, 2), 2);
    assert.deepEqual([bar.start, bar.end, bar.beats[1]], [1, 2, 1.25]);
  });
});

describe("what is one's own", () => {
  test("notes of the chosen bars and hands", () => {
    assert.deepEqual(ownNotes(DATA, { from: 1, to: 1, mine: [] }), [DATA.target[0], DATA.target[1]]);
    assert.deepEqual(ownNotes(DATA, { from: 1, to: 3, mine: ["right"] }), [DATA.target[0], DATA.target[2]]);
    assert.deepEqual(ownNotes(DATA, { from: 2, to: 2, mine: ["left"] }), []);
  });
  test("a note on a bar line is in the bar that begins, whichever way its time was rounded", () => {
    const bars = [1, 2].map((number) => ({ ...BARS[0], number, start: 1.333333 * (number - 1), end: 1.333333 * number }));
    for (const target of /** @type {PlainNote[][]} */ ([[[1.3333, 1, 60, 80]], [[1.3334, 1, 60, 80]]])) {
      assert.deepEqual(ownNotes({ target, bars, voices: ["right"] }, { from: 1, to: 1, mine: [] }), []);
      assert.deepEqual(ownNotes({ target, bars, voices: ["right"] }, { from: 2, to: 2, mine: [] }), target);
    }
  });
});

describe("what sounds along", () => {
  test("of the part, those voices that nobody plays", () => {
    const [backing, others] = soundsAlong(DATA, { mine: ["right"], silent: ["right"] }, 1, []);
    assert.deepEqual(backing.notes, []);
    assert.deepEqual(others.notes, [[0, 1, 40, 70]]);
    assert.deepEqual(soundsAlong(DATA, { mine: [], silent: [] }, 1, [])[1].notes, [], "nothing where all is played");
  });

  test("backing at its own loudness, and only where it is wanted while recording", () => {
    const data = { ...DATA, backing: { notes: [[1, 1, 50, 80]], level: 0.5, hasLanes: true, whileRecording: true } };
    assert.deepEqual(soundsAlong(data, { mine: [] }, 1, [])[0].notes, [[1, 1, 50, 40]]);
    data.backing.whileRecording = false;
    assert.deepEqual(soundsAlong(data, { mine: [] }, 1, [])[0].notes, []);
  });

  test("a pass that replaces leaves what stands outside of its bars", () => {
    const take = [[0.5, 1, 60, 80], [2.5, 1, 60, 80], [4.5, 1, 60, 80]];
    assert.deepEqual(leftOf(take, { way: "replace" }, BARS.slice(1, 2)).map(([at]) => at), [0.5, 4.5]);
    assert.equal(leftOf(take, { way: "over" }, BARS).length, 3);
    assert.match(describePass({ way: "replace" }, { from: 2, to: 3 }), /2 to 3/);
  });
});

describe("what the address asks for", () => {
  test("bars, voices, tempo and rung; nothing without a first bar", () => {
    assert.deepEqual(askedFor(DATA, "?from=3&to=4&of=right&percent=75&rung=2"), { from: 3, to: 4, mine: ["right"], bpm: 90, rung: 2 });
    assert.equal(askedFor(DATA, "?percent=75"), null);
    assert.deepEqual(askedFor(DATA, "?from=²&to=x").from, 1);
  });
});

describe("the clock", () => {
  /** @param {number[]} offsets */
  const clockOf = (offsets) => {
    const stamps = [...offsets];
    let contextTime = 10;
    const clock = new Clock({
      getOutputTimestamp: () => ((contextTime += 0.025), { contextTime, performanceTime: 1000 * contextTime + (stamps.shift() ?? offsets.at(-1)) }),
    });
    for (let k = 1; k < offsets.length; k++) clock.sample();
    return clock;
  };

  test("maps an event's time by the median of pairs, so that one bad pair moves nothing", () => {
    const clock = clockOf([5, 5.1, 4.9, 80, 5, 5.05, 4.95, 5, 5, 5, 5]);
    assert.ok(Math.abs(clock.offsetMs - 5) < 0.2);
    assert.ok(Math.abs(clock.audioTime(1005) - 1) < 0.001);
  });

  test("is steady once all pairs of half a second agree, and not by the same pair again and again", () => {
    assert.ok(clockOf(Array(20).fill(5)).isSteady);
    assert.ok(!clockOf(Array(19).fill(5)).isSteady);
    assert.ok(!clockOf([...Array(10).fill(5), 30, ...Array(10).fill(5)]).isSteady);
    const still = new Clock({ getOutputTimestamp: () => ({ contextTime: 10, performanceTime: 10_000 }) });
    for (let k = 0; k < 50; k++) still.sample();
    assert.ok(!still.isSteady);
  });

  test("the middle of an odd number and of an even one", () => {
    assert.equal(clockOf([9, 1, 5]).offsetMs, 5);
    assert.equal(clockOf([9, 1, 5, 7]).offsetMs, 6);
  });

  test("pairs of before a stumble are forgotten", () => {
    const clock = clockOf([...Array(30).fill(5), ...Array(8).fill(45)]);
    assert.ok(Math.abs(clock.offsetMs - 45) < 0.1);
  });
});

describe("where a player is without a click", () => {
  const at = (/** @type {number[]} */ ...pitches) => pitches.map((pitch, k) => [k, 0.9, pitch, 80]);

  test("at the next moment that has the key; a wrong one moves nothing", () => {
    const follower = new Follower(at(60, 62, 64, 65), 0);
    assert.deepEqual([60, 61, 62, 64].map((pitch) => follower.hear(pitch)), [0, null, 1, 2]);
  });

  test("who leaves a note out is found again, and who goes back after three keys", () => {
    const follower = new Follower(at(60, 62, 64, 65, 67, 69), 0);
    assert.deepEqual([60, 64, 69].map((pitch) => follower.hear(pitch)), [0, 2, 5]);
    assert.deepEqual([60, 62, 64].map((pitch) => follower.hear(pitch)), [null, null, 2]);
  });

  test("all keys of a chord are its moment's, struck again it is the next one's", () => {
    const follower = new Follower([[0, 1, 60, 80], [0.01, 1, 64, 80], [1, 1, 60, 80]], 0);
    assert.deepEqual([64, 60, 60].map((pitch) => follower.hear(pitch)), [0, 0, 1]);
  });

  test("from the bars on that are played", () => {
    assert.equal(new Follower(at(60, 62, 60), 2).hear(60), 2);
  });
});

describe("settings of a person", () => {
  test("of the server's and this browser's the newer counts, each by itself", () => {
    const found = newest({ tempo: [5, 80], source: [9, "midi"] }, { tempo: [7, 90], source: [8, "typing"], sound: [1, 4] });
    assert.deepEqual(found, { tempo: [7, 90], source: [9, "midi"], sound: [1, 4] });
  });
});

test("what is true of one computer alone is kept under its id", () => {
  assert.deepEqual(["latency", "source", "device", "midi-out", "mixer"].map((name) => keyOf(name, "a1")), ["latency@a1", "source@a1", "device@a1", "midi-out@a1", "mixer@a1"]);
  assert.deepEqual(["tempo-7", "sound", "pads", "speaks"].map((name) => keyOf(name, "a1")), ["tempo-7", "sound", "pads", "speaks"]);
});

describe("the music in words, step by step", () => {
  const told = [[1, 1, "right"], [1, 1, "left"], [1, 1.5, "right"], [1, 2, "right"], [2, 1, "right"], [2, 1, "left"], [2, 3, "right"]].map(([bar, beat, hand]) => ({ bar, beat, hand }));

  test("from note to note, and no further than the ends", () => {
    assert.deepEqual([-1, 0, 6].map((at) => stepped(told, at, "note", 1, "")), [0, 1, 6]);
    assert.deepEqual([3, 0].map((at) => stepped(told, at, "note", -1, "")), [2, 0]);
  });

  test("from beat to beat and bar to bar, back to the first moment of each", () => {
    assert.deepEqual([0, 2, 3].map((at) => stepped(told, at, "beat", 1, "")), [3, 3, 4]);
    assert.equal(stepped(told, 3, "beat", -1, ""), 0);
    assert.deepEqual([stepped(told, 1, "bar", 1, ""), stepped(told, 6, "bar", -1, "")], [4, 0]);
  });

  test("one hand alone", () => {
    assert.deepEqual([stepped(told, -1, "note", 1, "left"), stepped(told, 1, "note", 1, "left")], [1, 5]);
    assert.equal(stepped(told, 5, "bar", -1, "left"), 1);
  });
});

describe("an instrument that sounds", () => {
  test("once it is unplugged this computer sounds and says so; plugged in again, it is chosen again", async () => {
    const keys = { name: "Keys", state: "connected", send: () => {} };
    const access = Object.assign(new EventTarget(), { outputs: new Map([["1", keys]]) });
    Object.defineProperty(globalThis, "navigator", { configurable: true, value: { requestMIDIAccess: async () => access } });
    Object.assign(globalThis, { window: globalThis, Option: class {} });
    const choice = Object.assign(new EventTarget(), { value: "", replaceChildren: () => {} });
    const said = { textContent: "" };
    const sound = { outside: null };
    const parts = /** @type {any} */ ({ find: (/** @type {string} */ what) => (what === "midi-out" ? choice : said), sound });
    const out = new MidiOut(parts);
    const settled = () => new Promise((resolve) => setTimeout(resolve, 5));
    choice.dispatchEvent(new Event("focus"));
    await settled();
    choice.value = "Keys";
    choice.dispatchEvent(new Event("change"));
    assert.equal(sound.outside, out);
    keys.state = "disconnected";
    access.outputs.clear();
    access.dispatchEvent(new Event("statechange"));
    await settled();
    assert.deepEqual([sound.outside, said.textContent !== ""], [null, true]);
    access.outputs.set("1", { ...keys, state: "connected" });
    access.dispatchEvent(new Event("statechange"));
    await settled();
    assert.deepEqual([sound.outside, said.textContent], [out, ""]);
    out.choose("");
  });
});

describe("words", () => {
  test("one bar is no stretch", () => {
    assert.equal(describeBars(3, 3), "bar 3");
    assert.equal(describeBars(3, 5), "bars 3 to 5");
  });
});
