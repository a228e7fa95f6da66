import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { Machine, TABLE, meaning } from "../../src/oido/stand/static/stand/js/machine.js";

/** @param {string[]} happenings */
const after = (...happenings) => {
  const machine = new Machine();
  for (const one of happenings) assert.ok(machine.tell(one), `${one} in ${machine.state}`);
  return machine;
};
const RECORDING = ["prepare", "countIn", "begin"];

describe("the Stand as a state machine", () => {
  test("a take is counted in, recorded, sent, and then there is nothing to do", () => {
    assert.equal(after(...RECORDING).state, "recording");
    assert.equal(after(...RECORDING, "kept").state, "sending");
    assert.equal(after(...RECORDING, "kept", "sent").state, "idle");
    assert.equal(after("prepare", "begin").state, "recording", "without a click there is no count-in");
    assert.equal(after("prepare", "countIn", "nothing").state, "idle", "stopped in the count-in");
  });

  test("every event in every state", () => {
    const HAPPENINGS = ["prepare", "hear", "practise", "countIn", "begin", "kept", "nothing", "sent", "stop", "fail"];
    const [i, p, h, x, c, r, s] = ["idle", "preparing", "hearing", "practising", "countingIn", "recording", "sending"];
    const none = undefined;
    const expected = {
      // prepare, hear, practise, countIn, begin, kept, nothing, sent, stop, fail
      idle: [p, none, none, none, none, none, none, i, i, none],
      preparing: [p, h, x, c, r, none, none, p, i, i],
      hearing: [p, none, none, none, none, none, none, h, i, i],
      practising: [p, none, none, none, none, none, none, x, i, i],
      countingIn: [none, none, none, none, r, s, i, c, none, i],
      recording: [none, none, none, none, r, s, i, r, none, i],
      sending: [p, none, none, none, none, none, none, i, s, i],
    };
    assert.deepEqual(Object.keys(expected), Object.keys(TABLE));
    for (const [state, row] of Object.entries(expected)) {
      HAPPENINGS.forEach((happening, k) => {
        const machine = new Machine();
        machine.state = /** @type {any} */ (state);
        assert.equal(machine.tell(/** @type {any} */ (happening)), row[k] !== undefined, `${happening} in ${state}`);
        assert.equal(machine.state, row[k] ?? state, `${happening} in ${state}`);
      });
    }
  });

  test("a preparation that was overtaken, or given up, knows that it is not wanted", () => {
    const machine = after("prepare");
    const first = machine.preparation;
    assert.ok(machine.isPreparing(first));
    machine.tell("prepare");
    assert.ok(!machine.isPreparing(first) && machine.isPreparing(machine.preparation));
    machine.tell("stop");
    assert.ok(!machine.isPreparing(machine.preparation));
  });

  test("nothing takes the place of a recording but its own end", () => {
    for (const state of ["countingIn", "recording"]) {
      for (const happening of ["prepare", "hear", "practise", "stop"]) assert.equal(TABLE[state][happening], undefined, `${happening} in ${state}`);
    }
    const machine = after(...RECORDING);
    assert.equal(machine.tell("hear"), false);
    assert.equal(machine.state, "recording");
    assert.ok(machine.isRecording && !machine.isSounding);
  });

  test("an earlier take that is sent meanwhile disturbs nothing", () => {
    for (const state of Object.keys(TABLE).filter((one) => one !== "sending")) assert.equal(TABLE[state].sent, state);
  });

  test("from everywhere a way leads back to doing nothing, and what fails ends there at once", () => {
    for (const state of Object.keys(TABLE)) {
      const seen = new Set([state]);
      for (const one of seen) for (const next of Object.values(TABLE[one])) seen.add(next);
      assert.ok(seen.has("idle"), state);
      if (state !== "idle") assert.equal(TABLE[state].fail, "idle", state);
    }
  });

  test("changes are told once, with what was before", () => {
    const told = [];
    const machine = new Machine((now, before) => told.push([before, now]));
    machine.tell("prepare");
    machine.tell("begin");
    machine.tell("begin");
    assert.deepEqual(told, [["idle", "preparing"], ["preparing", "recording"]]);
  });

  test("what keys mean depends on what is going on", () => {
    const table = [
      ["Space", false, "idle", "hear"], ["Space", false, "hearing", "stopSound"], ["Space", false, "practising", "stopSound"],
      ["Space", false, "countingIn", "stopRecording"], ["Space", false, "recording", "stopRecording"], ["Space", false, "sending", "hear"],
      ["Space", false, "preparing", "stopSound"], ["Enter", false, "preparing", "record"],
      ["Enter", false, "idle", "record"], ["Enter", false, "hearing", "record"], ["Enter", false, "recording", "again"], ["Enter", true, "recording", ""],
      ["Enter", true, "idle", "practise"], ["Enter", true, "practising", "stopSound"], ["KeyA", false, "idle", ""],
    ];
    for (const [code, shift, state, act] of table) assert.equal(meaning(code, shift, state), act, `${code} in ${state}`);
  });
});
