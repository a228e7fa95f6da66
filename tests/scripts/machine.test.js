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
      ["Enter", false, "idle", "record"], ["Enter", false, "hearing", "record"], ["Enter", false, "recording", "again"], ["Enter", true, "recording", ""],
      ["Enter", true, "idle", "practise"], ["Enter", true, "practising", "stopSound"], ["KeyA", false, "idle", ""],
    ];
    for (const [code, shift, state, act] of table) assert.equal(meaning(code, shift, state), act, `${code} in ${state}`);
  });
});
