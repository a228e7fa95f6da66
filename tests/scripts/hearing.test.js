import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { afterEach, beforeEach, describe, test } from "node:test";
import { ByEar } from "../../src/oido/stand/static/stand/js/by_ear.js";
import { Hearing } from "../../src/oido/stand/static/stand/js/hearing.js";
import { Machine } from "../../src/oido/stand/static/stand/js/machine.js";
import { element, fakeHow, fakePage, fakePlayer, fakeSound, later, serve, settled, standData } from "./fakes.js";

/** @type {ReturnType<typeof serve>} */
let server;
beforeEach(() => (server = serve({ json: { take: [], bars: [], bpm: 90 } })));
afterEach(() => server.end());

/** Hearing on a page of its own. @param {Record<string, any>} [more] */
function heard(more = {}) {
  const page = fakePage();
  const data = standData(more.data);
  const machine = new Machine();
  const [sound, player] = [fakeSound(more.sound), fakePlayer(more.player)];
  const cursor = { bars: data.bars };
  const place = element();
  const byEar = new ByEar({ data, machine, say: page.say, sound, place });
  const hearing = new Hearing(/** @type {any} */ ({ data, machine, say: page.say, sound, player, cursor, how: fakeHow(more.how), byEar }));
  return { ...page, data, machine, sound, player, cursor, place, byEar, hearing };
}

describe("hearing the part", () => {
  test("plays the chosen bars at the chosen tempo, and ends with the machine", async () => {
    const { hearing, machine, player, data } = heard({ how: { chosen: { from: 2, to: 3, loop: true, mine: ["right"], silent: ["right"], bpm: 60 } } });
    await hearing.hear("target");
    assert.equal(machine.state, "hearing");
    assert.deepEqual([player.order.from, player.order.to, player.order.rate, player.order.loop, player.order.silent], [2, 3, 0.5, true, ["right"]]);
    machine.tell("stop");
    assert.deepEqual([machine.state, player.isPlaying, player.data === data], ["idle", false, true]);
  });

  test("is refused while somebody records, and nothing sounds", async () => {
    const { hearing, machine, player } = heard();
    machine.attempt(() => {})?.begin("countIn");
    await hearing.hear("target");
    assert.deepEqual([machine.state, player.isPlaying, player.order.what], ["countingIn", false, "nothing"]);
  });

  test("that was stopped while the sounds were loaded is silent for good", async () => {
    const loading = later();
    const { hearing, machine, player, said, data } = heard({ player: { play: () => loading.promise }, data: { listenFirst: { url: "/heard/" } } });
    const done = hearing.hear("target");
    machine.tell("stop");
    const { stops } = player;
    loading.keep();
    await done;
    assert.equal(machine.state, "idle");
    assert.ok(player.stops >= stops && stops > 0);
    assert.equal(said.at(-1), "");
    assert.deepEqual([data.listenFirst, server.asked.length], [{ url: "/heard/" }, 0], "it was not heard");
  });

  test("that was overtaken by a recording leaves it alone", async () => {
    const loading = later();
    const { hearing, machine } = heard({ player: { play: () => loading.promise } });
    const done = hearing.hear("target");
    const recording = machine.attempt(() => assert.fail("the recording goes on"));
    recording?.begin("countIn");
    loading.keep();
    await done;
    assert.deepEqual([machine.state, recording?.isCurrent], ["countingIn", true]);
  });

  test("that cannot sound says why, and there is nothing to do", async () => {
    const { hearing, machine, said } = heard({ player: { play: async () => { throw new Error("no device"); } } });
    await hearing.hear("target");
    assert.equal(machine.state, "idle");
    assert.equal(said.at(-1), "No sound (no device). Reload the page to try again.");
  });

  test("that fails after something else was begun says nothing", async () => {
    const loading = later();
    const { hearing, machine, said } = heard({ player: { play: () => loading.promise } });
    const done = hearing.hear("target");
    machine.attempt(() => {});
    loading.breakIt(new Error("no device"));
    await done;
    assert.equal(machine.state, "preparing");
    assert.ok(!said.some((words) => words.startsWith("No sound")));
  });

  test("once counts as heard, where it has to be heard first", async () => {
    const { hearing, data } = heard({ data: { listenFirst: { url: "/heard/" } } });
    await hearing.hear("target");
    assert.equal(data.listenFirst, null);
    assert.deepEqual(server.asked.map(({ url }) => url), ["/heard/"]);
  });

  test("again begins anew: a tempo that is changed is heard at once", async () => {
    const { hearing, machine, player } = heard();
    await hearing.hear("target");
    await hearing.hear("target");
    assert.deepEqual([machine.state, player.isPlaying], ["hearing", true]);
  });
});

describe("hearing a take", () => {
  const row = () => element({ dataset: { notes: "/takes/1/notes/" } });

  test("is at its own tempo, and the page has its own bars again afterwards", async () => {
    const { hearing, machine, player, cursor, data } = heard();
    await hearing.hearTake(row(), "take");
    assert.equal(player.order.rate, 1);
    assert.deepEqual(player.data.bars, []);
    machine.tell("stop");
    assert.deepEqual([player.data === data, cursor.bars === data.bars], [true, true]);
  });

  test("that the server does not give is said, and changes nothing", async () => {
    for (const answer of [{ status: 404 }, new Error("offline")]) {
      server.end();
      server = serve(answer);
      const { hearing, machine, said } = heard();
      await hearing.hearTake(row(), "both");
      assert.deepEqual([machine.state, said], ["idle", ["This take cannot be heard now."]]);
    }
  });
});

describe("a part that is played by ear", () => {
  const node = () => ({ buffer: null, onended: null, isOn: false, connect() {}, start() { this.isOn = true; }, stop() { this.isOn = false; } });
  /** @param {Record<string, any>} [more] */
  const byEar = (more = {}) => {
    /** @type {any[]} */
    const nodes = [];
    const context = { currentTime: 0, state: "running", destination: {}, createBufferSource: () => nodes[nodes.push(node()) - 1], decodeAudioData: async () => ({}) };
    return { ...heard({ data: { byEar: { url: "/by-ear/", left: 2 }, listenFirst: { url: "/x/" } }, sound: { context }, ...more }), nodes };
  };

  test("is counted by the server, and how often it may be heard stands beside it", async () => {
    server.end();
    server = serve({ headers: { "X-Hears-Left": "1" } });
    const { hearing, machine, nodes, place, data } = byEar();
    await hearing.hear("target");
    assert.deepEqual([machine.state, nodes[0].isOn, data.byEar.left, data.listenFirst], ["hearing", true, 1, null]);
    assert.equal(place.textContent, "You may listen once more.");
    nodes[0].onended();
    assert.equal(machine.state, "idle");
  });

  test("is not asked for when it was given up before the sound was ready, and is counted once when it is fetched twice", async () => {
    const opening = later();
    const { byEar: ear, machine, sound } = byEar({});
    sound.open = () => opening.promise;
    const first = ear.hear();
    machine.tell("stop");
    opening.keep();
    await first;
    assert.equal(server.asked.length, 0);
    const number = ear.hearing;
    sound.open = async () => {};
    server.end();
    server = serve({ headers: {} });
    await ear.hear();
    assert.equal(server.asked[0].body.get("hearing"), number);
    assert.equal(ear.hearing, "", "the next one is another");
  });

  test("that may not be heard any more says so", async () => {
    server.end();
    server = serve({ status: 403 });
    const { hearing, machine, said, data } = byEar();
    await hearing.hear("target");
    assert.deepEqual([machine.state, data.byEar.left], ["idle", 0]);
    assert.equal(said.at(-1), "You have heard it as often as this exercise allows.");
    await hearing.hear("target");
    assert.equal(server.asked.length, 1, "nobody is asked again");
  });

  test("is silent once something else begins, and its end does not end that", async () => {
    const { hearing, machine, nodes } = byEar();
    await hearing.hear("target");
    const next = machine.attempt(() => assert.fail("it goes on"));
    next?.begin("countIn");
    assert.equal(nodes[0].isOn, false);
    nodes[0].onended();
    await settled();
    assert.equal(machine.state, "countingIn");
  });

  test("that is heard once more is not ended by the end of the first time", async () => {
    const { byEar: ear, machine, nodes } = byEar();
    await ear.hear();
    await ear.hear();
    nodes[0].onended();
    assert.deepEqual([machine.state, nodes[1].isOn], ["hearing", true]);
  });
});
