import "./globals.js";
import assert from "node:assert/strict";
import { describe, mock, test } from "node:test";
import { leftOf, passTold, soundsAlong } from "../../src/oido/stand/static/stand/js/along.js";
import { askedFor } from "../../src/oido/stand/static/stand/js/asked.js";
import { Clock } from "../../src/oido/stand/static/stand/js/clock.js";
import { barsAt, notesAt } from "../../src/oido/stand/static/stand/js/how.js";

const BARS = [1, 2, 3].map((number) => ({ number, start: 2 * (number - 1), end: 2 * number, beats: [0, 0.5, 1, 1.5].map((at) => at + 2 * (number - 1)) }));
const DATA = { bpm: 120, hasLanes: false, bars: BARS, target: [[0, 1, 60, 80], [0, 1, 40, 70], [2, 1, 62, 80]], voices: ["right", "left", "right"], backing: null };

describe("tempo", () => {
  test("notes and bars are at the rate that is asked for", () => {
    assert.deepEqual(notesAt([[2, 1, 60, 80]], 0.5), [[4, 2, 60, 80]]);
    const [bar] = barsAt(BARS.slice(1, 2), 2);
    assert.deepEqual([bar.start, bar.end, bar.beats[1]], [1, 2, 1.25]);
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
    assert.match(passTold({ way: "replace" }, { from: 2, to: 3 }), /2 to 3/);
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
    const clock = new Clock({ getOutputTimestamp: () => ({ contextTime: 10, performanceTime: 10_000 + (stamps.shift() ?? offsets.at(-1)) }) });
    for (let k = 1; k < offsets.length; k++) clock.sample();
    return clock;
  };

  test("maps an event's time by the median of pairs, so that one bad pair moves nothing", () => {
    const clock = clockOf([5, 5.1, 4.9, 80, 5, 5.05, 4.95, 5, 5, 5, 5]);
    assert.ok(Math.abs(clock.offsetMs - 5) < 0.2);
    assert.ok(Math.abs(clock.audioTime(1005) - 1) < 0.001);
    assert.ok(clock.isSteady);
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

describe("signed out in mid-work", () => {
  test("a refused request waits, and is sent again with a token of now", async () => {
    const clicks = [];
    globalThis.document = /** @type {any} */ ({ cookie: "csrftoken=old", addEventListener: (name, act) => name === "click" && clicks.push(act), getElementById: () => null });
    globalThis.FormData ??= class {};
    const { ask, csrfToken } = await import("../../src/oido/common/static/common/js/signed_out.js");
    const answers = [{ status: 401 }, { status: 200, ok: true }];
    const fetched = mock.fn(async () => answers.shift());
    globalThis.fetch = fetched;
    const asked = ask("/stand/1/loops/", { method: "POST", body: "{}" });
    await new Promise((resolve) => setTimeout(resolve, 5));
    assert.equal(fetched.mock.callCount(), 1, "it waits");
    document.cookie = "a=b; csrftoken=new";
    assert.equal(csrfToken(), "new");
    clicks[0]({ target: { closest: (/** @type {string} */ what) => what === "[data-go-on]" } });
    assert.equal((await asked).status, 200);
    assert.equal(fetched.mock.calls[1].arguments[1].headers["X-CSRFToken"], "new");
  });
});
