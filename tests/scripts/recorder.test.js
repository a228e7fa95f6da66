import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { Recorder } from "../../src/oido/common/static/common/js/playing/recorder.js";

/** Three bars of 2 s. */
const BARS = [1, 2, 3].map((number) => ({ number, start: 2 * (number - 1), end: 2 * number, beats: [0, 0.5, 1, 1.5].map((at) => at + 2 * (number - 1)) }));
const C4 = [60, 80];

/** A recorder whose music began at `downbeat` on a clock that stands at `now`, both in seconds. */
function recording({ now = 0, downbeat = 0, rounds = 1 } = {}) {
  /** @type {{ events: RawEvent[], rounds: RawEvent[][] }} */
  const kept = { events: [], rounds: [] };
  const sound = /** @type {any} */ ({ hush() {} });
  const clock = /** @type {any} */ ({ audioTime: () => now, offsetMs: 0 });
  const recorder = new Recorder(sound, clock, BARS, 1, {
    onBeat() {},
    onPosition() {},
    onEnd: (events) => (kept.events = events),
    onRound: (events) => kept.rounds.push(events),
  });
  recorder.isRecording = true;
  recorder.downbeat = downbeat;
  recorder.rounds = rounds;
  return { recorder, clock, kept };
}

describe("what belongs to a take", () => {
  test("begins with the last beat of the count-in", async () => {
    const context = { currentTime: 0, state: "running" };
    const sound = /** @type {any} */ ({ context, clickVolume: 1, click() {}, hush() {} });
    const clock = /** @type {any} */ ({ audioTime: (/** @type {number} */ ms) => ms / 1000, offsetMs: 0, steady: async () => true });
    const recorder = new Recorder(sound, clock, BARS, 1, { onBeat() {}, onPosition() {}, onEnd() {} });
    recorder.watch = () => {};
    const zeroMs = await recorder.start();
    for (const beforeMs of [510, 490]) {
      const input = /** @type {any} */ ({ timeStamp: zeroMs - beforeMs, bytes: [0x90, ...C4] });
      recorder.receive(input);
    }
    assert.deepEqual(recorder.events.map(([time]) => Math.round(time)), [-490]);
  });

  test("is nothing, where it is stopped in the count-in", () => {
    const { recorder, kept } = recording({ now: 9.9, downbeat: 10 });
    recorder.events = [[-90, 0x90, 60, 80]];
    recorder.stop();
    assert.deepEqual(kept.events, []);
    assert.equal(recorder.barsPlayed, 0);
  });

  test("is what was played until it was stopped, with the bars that were played to their end", () => {
    const { recorder, kept } = recording({ now: 4.5 });
    recorder.events = [[4000, 0x90, 60, 80], [4400, 0x80, 60, 64]];
    recorder.stop();
    assert.equal(kept.events.length, 2);
    assert.equal(recorder.barsPlayed, 2);
  });

  test("is in doubt where the clocks have parted", () => {
    const { recorder, clock } = recording();
    clock.offsetMs = -4;
    assert.equal(recorder.disturbanceMs, 0);
    clock.offsetMs = -6;
    assert.equal(recorder.disturbanceMs, 6);
  });
});

describe("rounds", () => {
  test("have their own times, and a note goes with its beginning", () => {
    const { recorder, kept } = recording({ now: 6.2, rounds: 2 });
    recorder.events = [[5700, 0x90, 60, 80], [5900, 0x90, 62, 80], [5950, 0x80, 60, 64]];
    recorder.endRound();
    assert.deepEqual(kept.rounds, [[[5700, 0x90, 60, 80], [5950, 0x80, 60, 64]]]);
    recorder.events.push([6300, 0x80, 62, 64]);
    recorder.finish("itself");
    assert.deepEqual(kept.events, [[-100, 0x90, 62, 80], [300, 0x80, 62, 64]]);
  });

  test("are played once more where they count for nothing", () => {
    const { recorder, kept } = recording({ now: 6.2, rounds: 2 });
    recorder.events = [[5000, 0x90, 60, 80], [5100, 0x80, 60, 64]];
    recorder.redoRound();
    recorder.endRound();
    assert.deepEqual(kept.rounds, []);
    assert.equal(recorder.rounds, 3);
    recorder.events = [[11_000, 0x90, 60, 80], [11_100, 0x80, 60, 64]];
    recorder.endRound();
    assert.deepEqual(kept.rounds, [[[5000, 0x90, 60, 80], [5100, 0x80, 60, 64]]]);
  });
});

describe("keys that are still down", () => {
  test("end with the recording, and say that they were held", () => {
    const { recorder, kept } = recording({ now: 6.7 });
    recorder.events = [[0, 0x90, 60, 80], [900, 0x80, 60, 64], [4000, 0x90, 62, 80]];
    recorder.finish("itself");
    assert.deepEqual(kept.events.slice(3), [[6700, 0xb0, 123, 0]]);
    recorder.events = [[0, 0x90, 60, 80], [900, 0x90, 60, 0]];
    recorder.finish("itself");
    assert.equal(kept.events.length, 2, "nothing is held: nothing is added");
  });

  test("of a round end with it, and not in the next one", () => {
    const { recorder, kept } = recording({ now: 6.2, rounds: 2 });
    recorder.events = [[5000, 0x90, 62, 80]];
    recorder.endRound();
    assert.deepEqual(kept.rounds, [[[5000, 0x90, 62, 80], [5850, 0xb0, 123, 0]]]);
  });
});

describe("where something was played", () => {
  test("is told by its own time, in every round, without the latency", () => {
    const { recorder, clock } = recording({ downbeat: 10 });
    clock.audioTime = (/** @type {number} */ ms) => ms / 1000;
    recorder.isRecording = false;
    assert.equal(recorder.secondOf(12_030, 30), null, "nothing is recorded");
    recorder.isRecording = true;
    assert.equal(recorder.secondOf(12_030, 30), 2);
    assert.equal(recorder.secondOf(16_030 + 1000, 30), 1, "the second round");
    assert.equal(recorder.secondOf(9_530, 30), -0.5);
  });
});
