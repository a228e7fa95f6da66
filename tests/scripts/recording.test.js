import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { afterEach, beforeEach, describe, mock, test } from "node:test";
import { Machine } from "../../src/oido/stand/static/stand/js/machine.js";
import { Recording } from "../../src/oido/stand/static/stand/js/recording.js";
import { Unplugged } from "../../src/oido/stand/static/stand/js/unplugged.js";
import { element, fakeClock, fakeHow, fakePage, fakeSound, fakeView, later, serve, settled, standData } from "./fakes.js";

/** The page's clock, in ms: bar 1 begins at 2250 ms of the sound, which stands at 0. */
let nowMs = 0;
const DOWNBEAT_MS = 2250;
const realNow = performance.now;

beforeEach(() => {
  nowMs = 0;
  performance.now = () => nowMs;
  mock.timers.enable({ apis: ["setTimeout", "setInterval"] });
});
afterEach(() => {
  performance.now = realNow;
  mock.timers.reset();
});

/** Recording on a page of its own. @param {Record<string, any>} [more] */
function recorded(more = {}) {
  const page = fakePage();
  const data = standData(more.data);
  const machine = new Machine();
  const context = { state: "running", destination: {}, get currentTime() { return nowMs / 1000; } };
  const sound = fakeSound({ context, ...more.sound });
  const clock = fakeClock(more.clock);
  /** @type {{added: Parcel[], kept: Parcel[], dropped: string[]}} */
  const parcels = { added: [], kept: [], dropped: [] };
  const outbox = { add: async (/** @type {Parcel} */ one) => void parcels.added.push(one), keep: async (/** @type {Parcel} */ one) => void parcels.kept.push(one), drop: async (/** @type {string} */ id) => void parcels.dropped.push(id) };
  const check = { kind: "midi", device: "Keys", hasAnswered: true, source: { prepare: async () => {} }, change: async () => {}, ...more.check };
  const pads = { map: {}, meant: (/** @type {number} */ number) => number };
  const shown = /** @type {number[]} */ ([]);
  const cursor = { bars: data.bars, show: (/** @type {number} */ second) => shown.push(second), hide: () => {} };
  const view = fakeView();
  const recording = new Recording(/** @type {any} */ ({
    ...page, data, machine, sound, clock, cursor, check, mixer: { volume: () => 0.1 }, how: fakeHow(more.how), pads, latency: { offsetMs: 20 }, outbox, view,
  }));
  /** Time goes by, in small steps. @param {number} ms */
  const wait = async (ms) => {
    for (const end = nowMs + ms; nowMs < end; ) {
      nowMs += 20;
      mock.timers.tick(20);
    }
    await settled();
  };
  /** A key goes down and up again, in ms from bar 1. @param {number} atMs */
  const play = (atMs, pitch = 60) => {
    recording.receive({ timeStamp: DOWNBEAT_MS + atMs, bytes: [0x90, pitch, 80] });
    recording.receive({ timeStamp: DOWNBEAT_MS + atMs + 200, bytes: [0x80, pitch, 64] });
  };
  return { ...page, data, machine, sound, clock, parcels, check, view, shown, recording, wait, play };
}

describe("a take", () => {
  test("is counted in, recorded to the end of the last bar, and sent", async () => {
    const { recording, machine, parcels, said, root, wait, play, view } = recorded();
    await recording.record();
    assert.deepEqual([machine.state, view.isOpen, root.dataset.downbeatMs], ["countingIn", true, String(DOWNBEAT_MS)]);
    await wait(2300);
    assert.equal(machine.state, "recording");
    play(0);
    play(4000, 64);
    await wait(6800);
    assert.equal(machine.state, "sending");
    const { url, user, body } = parcels.added[0];
    assert.deepEqual([url, user, body.part, body.tempo_bpm, body.ending, body.latency_ms, body.heard_click], ["/assignments/1/takes/", "7", 5, "120.00", "itself", 20, true]);
    assert.deepEqual(/** @type {any} */ (body.events).map(([time]) => Math.round(time)), [0, 200, 4000, 4200]);
    assert.equal(said.at(-1), "Sending the take …");
    assert.ok(said.includes("Count-in") && said.includes("Recording, bar 2 of 3"));
  });

  test("is of the whole part and both hands, whatever is chosen to practise", async () => {
    const { recording, parcels, view, wait, play } = recorded({ how: { chosen: { from: 2, to: 2, loop: false, mine: ["left"], silent: [], bpm: 120 } } });
    const opened = /** @type {Chosen[]} */ ([]);
    view.open = (/** @type {Chosen} */ chosen) => opened.push(chosen);
    await recording.record();
    assert.deepEqual(opened.map(({ from, to, mine }) => [from, to, mine]), [[1, 3, []]]);
    await wait(2300);
    play(100);
    await wait(7000);
    assert.equal(parcels.added.length, 1);
  });

  test("is kept second by second while it is played, and no longer once it is on its way", async () => {
    const { recording, parcels, wait, play } = recorded();
    await recording.record();
    await wait(2300);
    play(0);
    await wait(2000);
    const kept = parcels.kept.length;
    assert.ok(kept >= 2);
    assert.equal(parcels.kept[0].body.ending, "closed");
    await wait(6000);
    const after = parcels.kept.length;
    await wait(3000);
    assert.equal(parcels.kept.length, after);
    assert.equal(parcels.kept[0].id, parcels.added[0].id, "what was kept becomes what is sent");
  });

  test("without a note is nothing", async () => {
    const { recording, machine, parcels, said, wait } = recorded();
    await recording.record();
    await wait(9200);
    assert.deepEqual([machine.state, parcels.added.length], ["idle", 0]);
    assert.equal(said.at(-1), "No notes arrived, so nothing was saved. Check the input and record again.");
  });

  test("that is stopped in the count-in is nothing, and the view is left", async () => {
    const { recording, machine, parcels, said, wait, play } = recorded();
    await recording.record();
    await wait(1800);
    play(-100);
    recording.stop();
    assert.deepEqual([machine.state, parcels.added.length, said.at(-1)], ["idle", 0, "Stopped; nothing was saved."]);
  });

  test("that is broken off early is no attempt, but may be kept after all", async () => {
    const { recording, machine, parcels, find, said, wait, play } = recorded({ data: { countsAfter: 2 } });
    await recording.record();
    await wait(2300);
    play(100);
    await wait(1000);
    recording.stop();
    assert.deepEqual([machine.state, parcels.added.length, find("keep-broken").hidden], ["idle", 0, false]);
    assert.equal(said.at(-1), "Stopped in bar 1: not saved, and not counted as an attempt.");
    find("keep-broken").click();
    assert.deepEqual([parcels.added.length, parcels.added[0].body.ending, find("keep-broken").hidden], [1, "stopped", true]);
  });

  test("that is stopped later is one, of what was played", async () => {
    const { recording, machine, parcels, wait, play } = recorded();
    await recording.record();
    await wait(2300);
    play(100);
    await wait(2500);
    recording.stop();
    assert.deepEqual([machine.state, parcels.added[0].body.ending], ["sending", "stopped"]);
  });

  test("once more sends what went far enough and counts in at once", async () => {
    const { recording, machine, parcels, wait, play } = recorded();
    await recording.record();
    await wait(2300);
    play(100);
    await wait(2500);
    recording.again();
    await settled();
    assert.deepEqual([machine.state, parcels.added.length, parcels.added[0].body.ending], ["countingIn", 1, "stopped"]);
  });

  test("that is dropped leaves nothing", async () => {
    const { recording, machine, parcels, wait, play } = recorded();
    await recording.record();
    await wait(2300);
    play(100);
    await wait(3000);
    recording.drop();
    assert.deepEqual([machine.state, parcels.added.length], ["idle", 0]);
  });
});

describe("getting ready to record", () => {
  test("is refused while one records", async () => {
    const { recording, machine, wait } = recorded();
    await recording.record();
    const first = machine.current;
    await recording.record();
    await wait(100);
    assert.equal(machine.current, first);
  });

  test("is given up with Stop while the sounds are loaded: nothing begins", async () => {
    const loading = later();
    const { recording, machine, view, sound } = recorded({ sound: { open: () => loading.promise } });
    const done = recording.record();
    machine.tell("stop");
    loading.keep();
    await done;
    assert.deepEqual([machine.state, view.isOpen, sound.done.length], ["idle", false, 0]);
  });

  test("that was stopped while the clocks were compared is nothing", async () => {
    const comparing = later();
    const { recording, machine, sound, said } = recorded({ clock: { steady: () => comparing.promise } });
    const done = recording.record();
    await settled();
    assert.equal(machine.state, "countingIn");
    recording.stop();
    comparing.keep(true);
    await done;
    assert.equal(machine.state, "idle");
    assert.ok(!sound.done.some(([what]) => what === "click"), "no click sounds");
    assert.equal(said.at(-1), "Stopped; nothing was saved.");
  });

  test("that fails says why, hushes what sounds, and leaves the view", async () => {
    const { recording, machine, said } = recorded({ clock: { steady: async () => { throw new Error("the sound stopped"); } } });
    await recording.record();
    assert.deepEqual([machine.state, said.at(-1)], ["idle", "Could not record. the sound stopped"]);
  });

  test("ends whatever sounds first", async () => {
    const { recording, machine } = recorded();
    /** @type {string[]} */
    const ends = [];
    machine.attempt((how) => ends.push(how))?.begin("practise");
    await recording.record();
    assert.deepEqual([ends, machine.state], [["prepare"], "countingIn"]);
  });

  test("waits for what has to be heard, and for a take that may still be recorded", async () => {
    const { recording, machine, said } = recorded({ data: { listenFirst: { url: "/x/" } } });
    await recording.record();
    assert.deepEqual([machine.state, said], ["idle", ["Listen to it first, then record."]]);
    globalThis.document.querySelector = /** @type {any} */ ((/** @type {string} */ what) => (what === "[data-no-more-takes]" ? element() : null));
    await recording.record();
    globalThis.document.querySelector = /** @type {any} */ (() => null);
    assert.equal(said.at(-1), "All takes that this exercise allows are recorded. Hand one in.");
  });

  test("warns where nothing has come from the source yet, until something does", async () => {
    const { recording, find, play, wait } = recorded({ check: { hasAnswered: false } });
    await recording.record();
    assert.match(find("warning").textContent, /^Nothing has arrived/);
    await wait(2300);
    play(0);
    assert.equal(find("warning").textContent, "");
  });
});

describe("passes", () => {
  test("go into their take at its own tempo, over the bars and the hand that are chosen", async () => {
    const server = serve({ json: { take: [[0, 0.5, 60, 80], [2.5, 0.5, 62, 80]], bpm: 60 } });
    const { recording, root, parcels, find, shown, wait } = recorded({ how: { chosen: { from: 2, to: 2, loop: true, mine: ["right"], silent: [], bpm: 120 } } });
    root.querySelector = () => element({ dataset: { notes: "/takes/ab/notes/" } });
    await recording.record({ takeId: "ab", way: "replace" });
    server.end();
    assert.match(find("loop-news").textContent, /^This pass replaces what is in bar 2/);
    const zeroMs = Number(root.dataset.downbeatMs);
    await wait(zeroMs + 4000 + 100);
    recording.receive({ timeStamp: zeroMs + 4500, bytes: [0x90, 62, 80] });
    recording.receive({ timeStamp: zeroMs + 4700, bytes: [0x80, 62, 64] });
    await wait(5000);
    assert.ok(Math.max(...shown) > 3.9 && Math.max(...shown) < 4.5, "the music is shown as it is written, at any tempo");
    const { url, body } = parcels.added[0];
    assert.equal(url, "/takes/ab/passes/");
    assert.deepEqual([body.way, body.from_ms, body.until_ms], ["replace", 4000, 8000], "bar 2 at half the tempo");
  });

  test("into a take that cannot be played say so", async () => {
    const server = serve({ status: 404 });
    const { recording, machine, said } = recorded();
    await recording.record({ takeId: "ab", way: "over" });
    server.end();
    assert.deepEqual([machine.state, said.at(-1)], ["idle", "Could not record. This take cannot be played now."]);
  });

  test("laid in rounds are sent one by one: a take, then what goes over it", async () => {
    const { recording, machine, parcels, said, wait, play } = recorded({ data: { passes: 2 }, how: { chosen: { from: 1, to: 1, loop: true, mine: [], silent: [], bpm: 120 } } });
    await recording.record();
    await wait(2300);
    play(100);
    await wait(2200);
    assert.deepEqual([parcels.added.length, machine.state], [1, "recording"]);
    assert.ok(said.includes("Pass 1 is recorded; play the next one over it."));
    play(2000 + 300, 62);
    await wait(3000);
    assert.deepEqual([parcels.added.length, machine.state], [2, "sending"]);
    assert.equal(parcels.added[1].url, `/takes/${parcels.added[0].id}/passes/`);
    assert.deepEqual(/** @type {any} */ (parcels.added[1].body.events).map(([time]) => Math.round(time)), [300, 500]);
  });

  test("of which a round is silent are open still, and the last may be", async () => {
    const { recording, machine, said, parcels, wait, play } = recorded({ data: { passes: 2 }, how: { chosen: { from: 1, to: 1, loop: true, mine: [], silent: [], bpm: 120 } } });
    await recording.record();
    await wait(2300);
    play(100);
    await wait(5200);
    assert.deepEqual([parcels.added.length, machine.state], [1, "sending"]);
    assert.equal(said.at(-1), "One pass is recorded; the last round was silent.");
  });
});

describe("an instrument that is unplugged", () => {
  test("is told only while one records, and what was played is kept or not", async () => {
    const { recording, machine, find, view, check, parcels, wait, play } = recorded();
    const unplugged = new Unplugged(/** @type {any} */ ({ find, machine, view, check, onEnd: (/** @type {boolean} */ isKept) => (isKept ? recording.stop("unplugged") : recording.drop()) }));
    unplugged.tell("Keys");
    assert.equal(find("unplugged").open, false);
    await recording.record();
    await wait(2300);
    play(100);
    await wait(2500);
    unplugged.tell("Keys");
    assert.deepEqual([find("unplugged").open, find("unplugged-what").textContent], [true, "Keys was unplugged in bar 2."]);
    find("end-here").click();
    assert.deepEqual([find("unplugged").open, parcels.added[0].body.ending, machine.state], [false, "unplugged", "sending"]);
  });
});

describe("a recording without a click", () => {
  test("begins with the first note, and ends after a long silence", async () => {
    const { recording, machine, parcels, root, wait } = recorded({ data: { click: { on: false, sound: "tick", level: 0.8, divides: 1 } } });
    await recording.record();
    assert.deepEqual([machine.state, root.dataset.downbeatMs], ["recording", "Infinity"]);
    await wait(1000);
    recording.receive({ timeStamp: 1000, bytes: [0x90, 60, 80] });
    recording.receive({ timeStamp: 1500, bytes: [0x80, 60, 64] });
    await wait(7000);
    assert.equal(machine.state, "sending");
    assert.deepEqual(/** @type {any} */ (parcels.added[0].body.events).map(([time]) => Math.round(time)), [0, 500]);
  });
});

describe("sound that stops", () => {
  test("ends the recording, and what was played is a take", async () => {
    const { recording, machine, sound, parcels, wait, play } = recorded();
    await recording.record();
    await wait(2300);
    play(100);
    await wait(2500);
    sound.context.state = "suspended";
    await wait(1700);
    assert.deepEqual([machine.state, parcels.added[0].body.ending], ["sending", "stalled"]);
  });

  test("that stumbled is told afterwards", async () => {
    const { recording, clock, find, wait, play } = recorded();
    await recording.record();
    await wait(2300);
    play(100);
    clock.offsetMs = 9;
    await wait(7000);
    assert.match(find("warning").textContent, /dropped out while you played/);
  });
});
