import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { afterEach, beforeEach, describe, mock, test } from "node:test";
import { Machine } from "../../src/oido/stand/static/stand/js/machine.js";
import { Practising } from "../../src/oido/stand/static/stand/js/practising.js";
import { element, fakeClock, fakeHow, fakePage, fakePlayer, fakeSound, fakeView, later, serve, settled, standData } from "./fakes.js";

const GOOD = { points: 92, isClean: true, earNote: "", needed: 80 };
/** @type {ReturnType<typeof serve>} */
let server;
beforeEach(() => (server = serve({ json: GOOD })));
afterEach(() => {
  server.end();
  mock.timers.reset();
});

/** Practising on a page of its own. @param {Record<string, any>} [more] */
function practised(more = {}) {
  const page = fakePage();
  const data = standData(more.data);
  const machine = new Machine();
  const [sound, player, clock, how, view] = [fakeSound(more.sound), fakePlayer(more.player), fakeClock(more.clock), fakeHow(more.how), fakeView()];
  const check = { kind: "midi", source: more.source ?? { prepare: async () => {} } };
  const latency = { offsetMs: 30 };
  const practising = new Practising(/** @type {any} */ ({ ...page, data, machine, sound, clock, player, check, how, latency, view }));
  return { ...page, data, machine, sound, player, clock, how, view, check, practising };
}

/** A note of the loop, by its second on the audio clock. @param {number} second */
const note = (second, pitch = 60) => ({ timeStamp: 1000 * second, bytes: [0x90, pitch, 80] });

describe("practising", () => {
  test("plays the bars round and round with a count-in of its own, in the playing view", async () => {
    const { practising, machine, player, sound, view, said } = practised({ how: { bpm: 60, chosen: { from: 2, to: 2, loop: true, mine: [], silent: ["right"], bpm: 60 } } });
    await practising.practise();
    assert.deepEqual([machine.state, view.isOpen], ["practising", true]);
    assert.deepEqual([player.order.loop, player.order.click, player.order.rate, player.order.silent], [true, true, 0.5, ["right"]]);
    assert.deepEqual(sound.done.map(([what, , isFirst]) => [what, isFirst]), [["click", true], ["click", false], ["click", false], ["click", false]]);
    const times = sound.done.map(([, time]) => time);
    assert.ok(times.every((time, k) => k === 0 || Math.abs(time - times[k - 1] - 1) < 1e-9), "a beat of half the tempo lasts a second");
    assert.match(said.at(-1) ?? "", /^Practising bar 2 at 60\. Press Space/);
  });

  test("is refused while somebody records", async () => {
    const { practising, machine, player, view } = practised();
    machine.attempt(() => {})?.begin("begin");
    await practising.practise();
    assert.deepEqual([machine.state, player.isPlaying, view.isOpen], ["recording", false, false]);
  });

  test("that was stopped while it got ready starts nothing", async () => {
    const opening = later();
    const { practising, machine, player, view } = practised({ sound: { open: () => opening.promise } });
    const done = practising.practise();
    machine.tell("stop");
    opening.keep();
    await done;
    assert.deepEqual([machine.state, player.isPlaying, view.isOpen, practising.practice.isOn], ["idle", false, false, false]);
  });

  test("that was stopped while the clocks were compared starts nothing either", async () => {
    const comparing = later();
    const { practising, machine, player } = practised({ clock: { steady: () => comparing.promise } });
    const done = practising.practise();
    await settled();
    assert.equal(machine.state, "practising");
    machine.tell("stop");
    comparing.keep(true);
    await done;
    assert.deepEqual([machine.state, player.isPlaying, practising.practice.isOn], ["idle", false, false]);
  });

  test("ends with the machine: the player, and a robot that plays along", async () => {
    const source = { performs: 0, stops: 0, perform() { this.performs += 1; }, stop() { this.stops += 1; }, prepare: async () => {} };
    const { practising, machine, player, said } = practised({ source });
    await practising.practise();
    practising.practice.loopBegins(20);
    assert.equal(source.performs, 1);
    machine.tell("stop");
    assert.deepEqual([player.isPlaying, source.stops, practising.practice.isOn, said.at(-1)], [false, 1, false, ""]);
  });

  test("that cannot sound says why", async () => {
    const { practising, machine, said } = practised({ sound: { open: async () => { throw new Error("blocked"); } } });
    await practising.practise();
    assert.deepEqual([machine.state, said.at(-1)], ["idle", "No sound (blocked). Reload the page to try again."]);
  });

  test("gives the robot the pitches of the hand that is practised, and the stretch of the bars", async () => {
    /** @type {any[]} */
    const performed = [];
    const source = { perform: (/** @type {any[]} */ ...all) => performed.push(all), stop() {}, prepare: async () => {} };
    const { practising, player } = practised({ source, how: { chosen: { from: 2, to: 2, loop: true, mine: ["left"], silent: [], bpm: 120 } } });
    await practising.practise();
    player.order = { rate: 1 };
    practising.practice.loopBegins(20);
    const [at, { fromMs, untilMs, pitches }] = performed[0];
    assert.deepEqual([at, fromMs, untilMs, [...pitches]], [20_000 - 2000, 1850, 4000, [64]]);
  });
});

describe("loops", () => {
  /** A loop of the whole part that begins at 20 s, and the next one 6 s later. @param {Record<string, any>} [more] */
  async function looped(more = {}) {
    mock.timers.enable({ apis: ["setTimeout"] });
    const made = practised(more);
    await made.practising.practise();
    made.player.order = { rate: 1 };
    const { practice } = made.practising;
    practice.loopBegins(20);
    return { ...made, practice, next: () => practice.loopBegins(26) };
  }

  test("are judged once the notes that come a little late are there", async () => {
    const { practising, sound, next, find } = await looped();
    practising.receive(note(18.9));
    practising.receive(note(20.01));
    sound.context.currentTime = 25.9;
    next();
    practising.receive(note(26.1));
    mock.timers.tick(299);
    await settled();
    assert.equal(server.asked.length, 0, "it is not over yet");
    mock.timers.tick(2);
    await settled();
    const { url, body } = server.asked[0];
    assert.equal(url, "/loops/");
    assert.deepEqual(body.events.map(([time]) => Math.round(time)), [10, 6100], "what came long before belongs to none");
    assert.deepEqual([body.first_bar, body.last_bar, body.bpm, body.latency_ms, body.source, body.rung], [1, 3, 120, 30, "midi", null]);
    assert.equal(find("loop-news").textContent, "Clean: 92 points.");
  });

  test("are not judged after it was stopped", async () => {
    const { machine, next, find } = await looped();
    next();
    machine.tell("stop");
    mock.timers.tick(60_000);
    await settled();
    assert.deepEqual([server.asked.length, find("loop-news").textContent], [0, ""]);
  });

  test("whose answer comes when it is over change nothing", async () => {
    const answering = later();
    server.end();
    server = serve(answering.promise);
    const { machine, next, find } = await looped();
    next();
    mock.timers.tick(60_000);
    await settled();
    assert.equal(server.asked.length, 1);
    machine.tell("stop");
    answering.keep({ json: GOOD });
    await settled();
    assert.equal(find("loop-news").textContent, "");
  });

  test("that fail when it is over say nothing", async () => {
    const answering = later();
    server.end();
    server = serve(answering.promise);
    const { machine, next, find } = await looped();
    next();
    mock.timers.tick(60_000);
    await settled();
    machine.tell("stop");
    answering.breakIt(new Error("offline"));
    await settled();
    assert.equal(find("loop-news").textContent, "");
  });

  test("that cannot be judged say why, and the next one is", async () => {
    server.end();
    server = serve({ status: 422, json: { errors: { events: ["Too many notes."] } } }, { json: GOOD });
    const { practice, next, find } = await looped();
    next();
    mock.timers.tick(60_000);
    await settled();
    assert.equal(find("loop-news").textContent, "This loop could not be judged. Too many notes.");
    practice.loopBegins(32);
    mock.timers.tick(60_000);
    await settled();
    assert.equal(find("loop-news").textContent, "Clean: 92 points.");
  });

  test("that go well make it faster, where that is wanted; one that does not begins the count again", async () => {
    /** @type {number[]} */
    const tempos = [];
    const how = { isOn: (/** @type {string} */ what) => what === "raise", setTempo: (/** @type {number} */ bpm) => tempos.push(bpm) };
    const { practising, find } = practised({ how });
    find("raise-after").value = "2";
    find("raise-by").value = "4";
    for (const isClean of [true, false, true]) practising.judged(/** @type {any} */ ({ ...GOOD, isClean }));
    assert.deepEqual(tempos, []);
    practising.judged(/** @type {any} */ (GOOD));
    assert.deepEqual([tempos, practising.cleanLoops], [[124], 0]);
    // Two poor ones in a row make it slower again; on a rung never slower than that.
    for (const isClean of [false, true, false, false]) practising.judged(/** @type {any} */ ({ ...GOOD, isClean }));
    assert.deepEqual(tempos, [124, 116]);
    practising.slowestBpm = 119;
    for (const isClean of [false, false]) practising.judged(/** @type {any} */ ({ ...GOOD, isClean }));
    assert.deepEqual(tempos, [124, 116, 119]);
  });

  test("keep the charts of the last five, and say what a rung still needs", () => {
    const { practising, find } = practised();
    for (let k = 0; k < 7; k++) practising.judged(/** @type {any} */ ({ ...GOOD, chart: `<li>${k}` }));
    assert.equal(find("loop-charts").children.length, 5);
    practising.judged(/** @type {any} */ ({ ...GOOD, row: 1, neededLoops: 3 }));
    assert.equal(find("loop-news").textContent, "Clean: 92 points. 1 of 3 in a row.");
    practising.judged(/** @type {any} */ ({ ...GOOD, inTempo: false }));
    assert.equal(find("loop-news").textContent, "Clean: 92 points. Slower than this rung’s tempo.");
    practising.judged(/** @type {any} */ ({ ...GOOD, isPassed: true }));
    assert.equal(find("loop-news").textContent, "Clean: 92 points. Rung passed.");
    practising.judged(/** @type {any} */ ({ ...GOOD, isClean: false, earNote: "Bar 2 is late." }));
    assert.equal(find("loop-news").textContent, "92 points; 80 needed. Bar 2 is late.");
  });

  test("take a new tempo from the next one on", async () => {
    const { practice, player } = await looped();
    practice.changeTempo(60);
    assert.deepEqual([player.rates, practice.chosen?.bpm], [[0.5], 60]);
    practice.stop();
    practice.changeTempo(90);
    assert.deepEqual(player.rates, [0.5], "nothing is played");
  });

  test("say where in the music something was played, by its own time", async () => {
    const { practising, practice } = await looped({ data: { bpm: 120 } });
    assert.equal(practising.secondOf(21_030), 1);
    practice.current = { start: 20, bpm: 60 };
    assert.equal(practising.secondOf(21_030), 0.5, "at half the tempo half as much music has gone by");
    practice.stop();
    assert.equal(practising.secondOf(21_030), null);
  });

  test("of a rung are open with the notes that it asks for", async () => {
    const page = practised();
    let opened = /** @type {any[]} */ ([]);
    page.view.open = (/** @type {any[]} */ ...all) => (opened = all);
    globalThis.document.querySelector = /** @type {any} */ ((/** @type {string} */ what) => (what.includes('data-rung="2"') ? element({ dataset: { askedNotes: "0 2", name: "Left hand" } }) : null));
    await page.practising.practise(2, 90);
    globalThis.document.querySelector = /** @type {any} */ (() => null);
    assert.deepEqual(opened[2], [0, 2]);
    assert.equal(opened[0].bpm, 90);
    assert.match(page.said.at(-1) ?? "", /“Left hand”/);
  });
});
