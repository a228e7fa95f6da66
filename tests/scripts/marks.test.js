/** Marks that are dropped while something plays. */
import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { beforeEach, describe, test } from "node:test";
import { Marks, placeOf } from "../../src/oido/common/static/common/js/marks.js";
import { BARS, element } from "./fakes.js";

const kept = new Map();
globalThis.localStorage = /** @type {any} */ ({ getItem: (/** @type {string} */ key) => kept.get(key) ?? null, setItem: (/** @type {string} */ key, /** @type {string} */ value) => kept.set(key, value) });
globalThis.document = /** @type {any} */ ({ ...globalThis.document, createElement: () => element({ setAttribute: () => {} }) });
/** @type {string[]} */
let said = [];

function marks(bars = BARS) {
  const list = element();
  const place = element({ querySelector: () => list });
  const made = new Marks(place, { bars: () => bars, say: (words) => said.push(words) }, "here");
  return { made, place, list };
}

/** Something of the list that was pressed. @param {string} name @param {string} value @returns {any} */
const pressed = (name, value) => ({ closest: (/** @type {string} */ what) => (what === `[${name}]` ? { getAttribute: () => value } : null) });

describe("marks", () => {
  beforeEach(() => {
    kept.clear();
    said = [];
  });

  test("are dropped where the music is, a little before, and have names and places", () => {
    const { made, place, list } = marks();
    assert.equal(place.hidden, true);
    made.drop(2.8);
    made.drop(0.3);
    assert.deepEqual(made.marks, [{ second: 0.05, name: "B", bar: 1, beat: 1 }, { second: 2.55, name: "A", bar: 2, beat: 2 }]);
    assert.deepEqual([place.hidden, list.children.length, said[0]], [false, 2, "Mark A: bar 2, beat 2."]);
    assert.deepEqual(placeOf(BARS, 5.6), { bar: 3, beat: 4 });
  });

  test("are stepped through, renamed, removed and cleared, and are there the next time", () => {
    const { made } = marks();
    made.drop(1);
    made.drop(4);
    assert.deepEqual([made.after(1)?.name, made.after(5)?.name, made.after(0)?.name], ["B", "A", "A"]);
    made.rename(/** @type {any} */ ({ dataset: { nameMark: "1" }, value: " the turn " }));
    assert.deepEqual(marks().made.marks.map(({ name }) => name), ["A", "the turn"]);
    // A page that has just been opened does not know its bars yet.
    assert.deepEqual(marks([]).list.children.length, 2);
    made.click(pressed("data-remove-mark", "0"));
    assert.deepEqual(made.marks.map(({ name }) => name), ["the turn"]);
    for (let n = 0; n < 60; n++) made.drop(n / 10 + 1);
    assert.deepEqual([made.marks.length, said.at(-1)], [50, "There are already 50 marks. Remove some first."]);
    made.click(pressed("data-clear-marks", ""));
    assert.deepEqual([made.marks.length, marks().made.marks.length], [0, 0]);
  });
});
