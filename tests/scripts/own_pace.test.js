/** Practice at one's own pace, step by step; the same cases as the core's (`tests/ear/test_own_pace.py`). */
import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { Walk, stepsOf } from "../../src/oido/stand/static/stand/js/own_pace.js";

/** @type {PlainNote[]} a chord of three notes, then one of its keys again */
const CHORD = [[0, 0.5, 60, 80], [0.01, 0.5, 64, 80], [0.02, 0.5, 67, 80], [0.5, 0.5, 64, 80]];

/** @param {number[]} keys struck one after the other; let go with a minus sign */
function walked(keys, notes = CHORD, keyOf = (/** @type {number} */ pitch) => /** @type {number | string} */ (pitch), isHeld = true) {
  const walk = new Walk(stepsOf(notes, keyOf), keyOf, isHeld);
  for (const key of keys) key > 0 ? walk.strike(key) : walk.release(-key);
  return walk;
}

describe("own pace", () => {
  test("notes that begin together are one step", () => {
    assert.deepEqual(stepsOf(CHORD, (pitch) => pitch).map(({ pitches }) => pitches), [[60, 64, 67], [64]]);
  });

  test("chords come in any order, and all keys must be down together", () => {
    for (const [keys, at] of /** @type {[number[], number][]} */ ([
      [[67, 60, 64], 1], [[60, 64, -60, 67], 0], [[60, 64, -60, 67, 60], 1], [[60, 64, 67, -60], 1], [[60, 64, 67, -64, 64], 2], [[60, 64, 67, 64], 2],
    ])) assert.deepEqual([walked(keys).at, walked(keys).wrong], [at, 0], String(keys));
  });

  test("wrong keys are counted, and shown until they come up", () => {
    const walk = walked([60, 61, 64, 67, 65]);
    assert.deepEqual([walk.at, walk.wrong, [...walk.mistaken]], [1, 2, [61, 65]]);
    walk.release(61);
    assert.deepEqual([...walk.mistaken], [65]);
    assert.equal(walk.strike(64), "moved");
    assert.deepEqual([walk.isOver, walk.strike(61), walk.wrong], [true, "", 2]);
  });

  test("of a kit lanes count, and nothing is held", () => {
    const lanes = /** @type {Record<number, string>} */ ({ 36: "kick", 42: "hat", 44: "hat" });
    const walk = walked([44, -44, 36], [[0, 0.1, 36, 80], [0, 0.1, 42, 80]], (pitch) => lanes[pitch] ?? pitch, false);
    assert.ok(walk.isOver);
  });
});
