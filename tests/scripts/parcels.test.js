import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { Parcels } from "../../src/oido/stand/static/stand/js/parcels.js";
import { BARS, element, standData } from "./fakes.js";

const DRUMS = { hasLanes: true, lanes: { 36: "kick", 38: "snare", 42: "hat" } };
const HIT = [100, 0x99, 38, 90];

/** What one recording sends. @param {Record<string, any>} [more] */
function parcelsOf(more = {}) {
  /** @type {Parcel[]} */
  const added = [];
  /** @type {string[]} */
  const dropped = [];
  const stand = {
    root: element({ dataset: { user: "7", upload: "/assignments/1/takes/" } }), data: standData(more.data),
    check: { kind: "midi", device: "x".repeat(300) }, pads: { map: more.map ?? {}, meant: (/** @type {number} */ n) => more.map?.[n] ?? n },
    latency: { offsetMs: 20 }, outbox: { add: async (/** @type {Parcel} */ one) => void added.push(one), keep: async () => {}, drop: async (/** @type {string} */ id) => void dropped.push(id) },
  };
  const chosen = { from: 1, to: 3, loop: false, mine: [], silent: [], bpm: 100, ...more.chosen };
  const parcels = new Parcels(/** @type {any} */ (stand), { into: more.into ?? null, bpm: 100, bars: BARS, chosen });
  return { parcels, added, dropped };
}

describe("what a recording sends", () => {
  test("is a take with what it was played on, in the key that it was played in", () => {
    const { parcels, added } = parcelsOf({ data: { fifths: 2, ownFifths: 0 } });
    assert.ok(parcels.send([[0, 0x90, 60, 80]], "stopped"));
    const { body, url, user } = added[0];
    assert.deepEqual([url, user, body.source, String(body.device).length, body.fifths, body.ending, body.tempo_bpm], ["/assignments/1/takes/", "7", "midi", 120, 2, "stopped", "100.00"]);
    const own = parcelsOf();
    own.parcels.send([[0, 0x90, 60, 80]]);
    assert.equal(own.added[0].body.fifths, null, "its own key needs no word");
  });

  test("is nothing where nothing was played", () => {
    const { parcels, added } = parcelsOf();
    assert.equal(parcels.send([]), false);
    assert.equal(added.length, 0);
  });

  test("of a kit is what somebody said to play, by what the pads mean; pedals and wheels are always there", () => {
    const { parcels, added } = parcelsOf({ data: DRUMS, map: { 40: 38 }, chosen: { mine: ["snare"] } });
    parcels.send(/** @type {any} */ ([HIT, [200, 0x99, 40, 90], [300, 0x99, 36, 90], [310, 0x89, 36, 0], [400, 0xb9, 4, 90]]));
    assert.deepEqual(/** @type {any} */ (added[0].body.events).map(([time]) => time), [100, 200, 400]);
    assert.deepEqual(added[0].body.pads, { 40: 38 });
    assert.equal(parcels.send(/** @type {any} */ ([[0, 0x99, 36, 90]])), false, "all of it is somebody else’s");
  });

  test("goes on with passes into the take, each under an id of its own, in order of time", () => {
    const { parcels, added } = parcelsOf({ data: { passes: 3 } });
    for (let k = 0; k < 3; k++) parcels.send([[0, 0x90, 60, 80]]);
    const [take, first, second] = added;
    assert.deepEqual([first.url, second.url], [`/takes/${take.id}/passes/`, `/takes/${take.id}/passes/`]);
    assert.deepEqual([first.body.way, first.body.from_ms, first.body.until_ms], ["over", 0, 6000]);
    assert.equal(new Set(added.map(({ id }) => id)).size, 3);
    const times = added.map(({ body }) => String(body.recorded_at));
    assert.deepEqual(times, [...times].sort());
    assert.equal(new Set(times).size, 3);
  });

  test("into a take that is there replaces or lies over it, in the lanes that are played", () => {
    const { parcels, added } = parcelsOf({ data: DRUMS, into: { takeId: "ab", way: "replace" }, chosen: { mine: ["snare"] } });
    parcels.send(/** @type {any} */ ([HIT]));
    assert.deepEqual([added[0].url, added[0].body.way, added[0].body.lanes], ["/takes/ab/passes/", "replace", ["snare"]]);
    parcels.send(/** @type {any} */ ([HIT]));
    assert.equal(added[1].body.way, "over", "what follows lies over it");
  });

  test("sounds along in the next round where it was played, without the latency", () => {
    const { parcels } = parcelsOf({ data: DRUMS, map: { 40: 38 } });
    assert.deepEqual(parcels.heard(/** @type {any} */ ([[120, 0x99, 40, 90], [160, 0x89, 40, 0], [500, 0xb9, 4, 1]])), [[0.1, 0.1, 38, 90]]);
  });

  test("that is not wanted any more is dropped", () => {
    const { parcels, dropped } = parcelsOf();
    parcels.stopKeeping();
    assert.deepEqual(dropped, [parcels.id]);
  });
});
