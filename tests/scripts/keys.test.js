import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { TYPING_VELOCITY, TypingSource } from "../../src/oido/common/static/common/js/playing/sources/typing.js";

globalThis.Element ??= /** @type {any} */ (class {});

const ROWS = /** @type {any} */ ({ rows: [[["KeyA", "KeyS", "KeyD"], 0], [["KeyQ", "KeyW", "KeyE"], 12]], scale: [48, 50, 52, 53, 55, 57, 59, 60, 62, 64, 65, 67], home: 53 });

/** Typing keys, what they send, and what they say. @param {any} rows */
function typing(rows = ROWS, layout = new Map([["KeyA", 53], ["KeyS", 55], ["KeyD", 57]])) {
  /** @type {number[][]} */
  const sent = [];
  /** @type {string[]} */
  const said = [];
  /** @type {Map<string, number>[]} */
  const layouts = [];
  const source = new TypingSource(layout, rows, ({ bytes }) => sent.push(bytes), { onLayout: (one) => layouts.push(one), onState: (words) => said.push(words) });
  let stopped = 0;
  const event = (/** @type {string} */ code, more = {}) => /** @type {any} */ ({ code, key: code.slice(-1).toLowerCase(), timeStamp: 5, target: null, preventDefault: () => (stopped += 1), ...more });
  return {
    source, sent, said, layouts,
    down: (/** @type {string} */ code, more = {}) => source.press(event(code, more)),
    up: (/** @type {string} */ code) => source.release(event(code)),
    get stopped() {
      return stopped;
    },
  };
}

describe("typing keys", () => {
  test("play by the place of a key, once for each time that it goes down", () => {
    const { down, up, sent } = typing();
    down("KeyS");
    down("KeyS", { repeat: true });
    down("KeyS");
    up("KeyS");
    up("KeyS");
    assert.deepEqual(sent, [[0x90, 55, TYPING_VELOCITY], [0x80, 55, 64]]);
  });

  test("that play nothing start nothing of the browser's either, and Space stays the page's own", () => {
    const keys = typing();
    keys.down("KeyZ");
    keys.down("Space", { key: " " });
    assert.deepEqual([keys.stopped, keys.sent], [1, []]);
  });

  test("are letters with a modifier", () => {
    const { down, sent } = typing();
    for (const modifier of ["ctrlKey", "altKey", "metaKey"]) down("KeyA", { [modifier]: true });
    assert.deepEqual(sent, []);
  });

  test("are letters in a field", () => {
    const { down, sent } = typing();
    const field = Object.assign(Object.create(Element.prototype), { closest: () => ({}) });
    down("KeyA", { target: field });
    assert.deepEqual(sent, []);
  });

  test("have a velocity, an accent, a pedal, a bend and a modulation", () => {
    const { down, up, sent, said } = typing();
    down("Digit6");
    down("BracketLeft");
    down("KeyA");
    up("BracketLeft");
    down("KeyS");
    assert.deepEqual(sent.map(([, , velocity]) => velocity), [TYPING_VELOCITY + 8 + 30, TYPING_VELOCITY + 8]);
    assert.equal(said.at(-1), "velocity 88");
    sent.length = 0;
    for (const code of ["Quote", "Digit8", "Digit0"]) {
      down(code);
      up(code);
    }
    assert.deepEqual(sent, [[0xb0, 64, 127], [0xb0, 64, 0], [0xe0, 0, 0], [0xe0, 0, 64], [0xb0, 1, 100], [0xb0, 1, 0]]);
  });

  test("are neither softer nor louder than an instrument", () => {
    const { down, source } = typing();
    for (let k = 0; k < 30; k++) down("Digit5");
    assert.equal(source.baseVelocity, 24);
    for (let k = 0; k < 30; k++) down("Digit6");
    assert.equal(source.baseVelocity, 112);
    down("BracketLeft");
    assert.equal(source.velocity, 127);
  });

  test("move by steps of the scale and by octaves, as far as all of them have a note", () => {
    const { down, layouts, source } = typing();
    down("Digit4");
    assert.deepEqual([...layouts[0]], [["KeyA", 55], ["KeyS", 57], ["KeyD", 59], ["KeyQ", 67], ["KeyW", 69], ["KeyE", 71]]);
    down("Digit3");
    down("Digit3");
    assert.equal(source.layout.get("KeyA"), 52);
    down("Digit1");
    assert.equal(layouts.length, 3, "an octave lower there is nothing");
    for (let k = 0; k < 20; k++) down("Digit4");
    assert.equal(source.layout.get("KeyD"), 67, "the last of the scale");
  });

  test("that are moved while a note sounds let it go", () => {
    const { down, up, sent } = typing();
    down("KeyA");
    down("Digit4");
    assert.deepEqual(sent, [[0x90, 53, TYPING_VELOCITY], [0x80, 53, 64]]);
    up("KeyA");
    assert.equal(sent.length, 2);
  });

  test("of a kit stay where they are", () => {
    const { down, layouts } = typing(null, new Map([["KeyA", 36]]));
    down("Digit4");
    down("Digit2");
    assert.deepEqual(layouts, []);
  });

  test("go to the home note from which most is reached, or lie as a layout says", () => {
    const { source, layouts } = typing();
    source.homeAt(58);
    assert.equal(source.layout.get("KeyA"), 59);
    source.lay(new Map([["KeyA", 40]]));
    assert.deepEqual([...layouts.at(-1) ?? []], [["KeyA", 40]]);
  });

  test("sleep while another window has the keyboard: what sounds ends, and they say so", () => {
    const { source, down, sent, said } = typing();
    down("KeyA");
    down("Quote");
    source.sleep();
    assert.deepEqual(sent.slice(2), [[0x80, 53, 64], [0xb0, 64, 0]]);
    assert.match(said.at(-1) ?? "", /^Typing keys are off: another window/);
    source.wake();
    assert.deepEqual([source.isAsleep, said.at(-1)], [false, ""]);
  });

  test("sleep while somebody writes in a field", () => {
    const { source, said } = typing();
    const before = document.activeElement;
    Object.assign(document, { activeElement: Object.assign(Object.create(Element.prototype), { closest: () => ({}) }) });
    source.wake();
    Object.assign(document, { activeElement: before });
    assert.ok(source.isAsleep);
    assert.match(said.at(-1) ?? "", /^Typing keys are off while you write/);
  });

  test("that are given up let everything go", async () => {
    const { source, down, sent, said } = typing();
    await source.start();
    down("KeyD");
    source.stop();
    assert.deepEqual([sent.at(-1), said.at(-1)], [[0x80, 57, 64], ""]);
  });
});
