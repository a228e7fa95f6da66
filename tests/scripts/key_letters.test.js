/** What is printed on keys: the chosen keyboard, what was typed, the browser, its language. */
import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { afterEach, describe, test } from "node:test";
import { KEYBOARDS, chooseKeyboard, learn, letterOf } from "../../src/oido/common/static/common/js/playing/key_letters.js";

const kept = new Map();
globalThis.localStorage = /** @type {any} */ ({ getItem: (/** @type {string} */ key) => kept.get(key) ?? null, setItem: (/** @type {string} */ key, /** @type {string} */ value) => kept.set(key, value), removeItem: (/** @type {string} */ key) => kept.delete(key) });
afterEach(() => kept.clear());

describe("letters of keys", () => {
  test("every keyboard prints each letter once", () => {
    const codes = [..."ABCDEFGHIJKLMNOPQRSTUVWXYZ"].map((letter) => `Key${letter}`);
    for (const name of Object.keys(KEYBOARDS)) {
      chooseKeyboard(name);
      const printed = [...codes, "Semicolon", "Comma", "Period", "Slash", "Quote", "BracketLeft"].map(letterOf);
      assert.equal(new Set(printed).size, printed.length, name);
    }
    chooseKeyboard("fr");
    assert.deepEqual(["KeyA", "KeyQ", "Semicolon", "KeyM", "Digit1"].map(letterOf), ["Q", "A", "M", ",", "1"]);
    chooseKeyboard("");
    assert.equal(letterOf("KeyA"), "A");
  });

  test("what is typed says what is printed, unless a keyboard was chosen", () => {
    const typed = /** @type {any} */ ({ code: "KeyY", key: "z", shiftKey: false, ctrlKey: false, altKey: false, metaKey: false });
    assert.equal(learn(typed), true);
    assert.deepEqual([letterOf("KeyY"), learn(typed)], ["Z", false]);
    assert.equal(learn({ ...typed, code: "KeyB", key: "Enter" }), false);
    chooseKeyboard("uk");
    assert.deepEqual([letterOf("KeyY"), learn({ ...typed, code: "KeyX", key: "q" })], ["Y", false]);
  });
});
