import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { Attempt, Machine, TABLE, meaning } from "../../src/oido/stand/static/stand/js/machine.js";

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

/** An attempt in a machine, and how it ended. */
function attempted(machine = new Machine()) {
  /** @type {string[]} */
  const ends = [];
  const attempt = machine.attempt((how) => ends.push(how));
  return { machine, ends, attempt: /** @type {Attempt} */ (attempt) };
}

describe("an attempt", () => {
  test("begins where it is still wanted, and goes on until it is stopped", () => {
    const { machine, attempt, ends } = attempted();
    assert.ok(attempt.isWanted && attempt.isCurrent);
    assert.ok(attempt.begin("hear"));
    assert.equal(machine.state, "hearing");
    assert.ok(!attempt.isWanted && attempt.isCurrent);
    machine.tell("stop");
    assert.deepEqual([machine.state, ends, attempt.isCurrent], ["idle", ["stop"], false]);
  });

  test("that was overtaken has ended, and cannot begin", () => {
    const first = attempted();
    const second = attempted(first.machine);
    assert.deepEqual(first.ends, ["prepare"]);
    assert.equal(first.attempt.begin("practise"), false);
    assert.deepEqual(first.ends, ["prepare"], "it ends once");
    assert.equal(second.machine.state, "preparing");
    assert.ok(second.attempt.begin("practise"));
  });

  test("that was stopped while it got ready has ended", () => {
    const { machine, attempt, ends } = attempted();
    machine.tell("stop");
    assert.deepEqual(ends, ["stop"]);
    assert.ok(!attempt.isWanted && !attempt.begin("hear"));
    assert.equal(machine.state, "idle");
  });

  test("ends whatever it starts where the machine refuses it", () => {
    const { machine, attempt, ends } = attempted();
    assert.equal(attempt.begin("kept"), false, "nothing is kept that was not recorded");
    assert.deepEqual(ends, ["fail"]);
    assert.equal(machine.state, "preparing", "the refusal changes nothing");
  });

  test("fails once, and says whether anybody waits for it", () => {
    const one = attempted();
    assert.equal(one.attempt.fail(), true);
    assert.deepEqual([one.machine.state, one.ends], ["idle", ["fail"]]);
    assert.equal(one.attempt.fail(), false);
    const other = attempted();
    const next = attempted(other.machine);
    assert.equal(other.attempt.fail(), false, "it was overtaken");
    assert.equal(next.machine.state, "preparing", "what took its place goes on");
  });

  test("is refused while somebody records, and the recording goes on", () => {
    for (const happening of ["countIn", "begin"]) {
      const { machine, attempt, ends } = attempted();
      attempt.begin(/** @type {any} */ (happening));
      assert.equal(machine.attempt(() => assert.fail("it never began")), null);
      assert.deepEqual([ends, attempt.isCurrent], [[], true]);
    }
  });

  test("takes the place of whatever sounds, which has ended by then", () => {
    for (const happening of ["hear", "practise"]) {
      const { machine, attempt, ends } = attempted();
      attempt.begin(/** @type {any} */ (happening));
      const next = machine.attempt(() => {});
      assert.deepEqual([ends, machine.state, machine.current === next], [["prepare"], "preparing", true]);
    }
  });

  test("that records ends with what becomes of it", () => {
    for (const [how, state] of [["kept", "sending"], ["nothing", "idle"], ["fail", "idle"]]) {
      const { machine, attempt, ends } = attempted();
      attempt.begin("countIn");
      machine.tell("begin");
      assert.equal(machine.tell("stop"), false, "a recording is stopped by its recorder alone");
      machine.tell(/** @type {any} */ (how));
      assert.deepEqual([ends, machine.state], [[how], state]);
    }
  });

  test("is over by the time that its end is told, so that an end may start something", () => {
    const machine = new Machine();
    /** @type {string[]} */
    const states = [];
    const attempt = machine.attempt(() => states.push(machine.state));
    attempt?.begin("hear");
    machine.tell("stop");
    assert.deepEqual(states, ["idle"]);
    assert.equal(machine.current, null);
  });

  test("is disturbed by no take that arrives meanwhile", () => {
    for (const happening of ["hear", "practise", "countIn", "begin"]) {
      const { machine, attempt, ends } = attempted();
      attempt.begin(/** @type {any} */ (happening));
      machine.tell("sent");
      assert.deepEqual([ends, attempt.isCurrent], [[], true], happening);
    }
  });

  test("every event in every state keeps one and the same rule: what is over has ended, what is not goes on", () => {
    const HAPPENINGS = ["prepare", "hear", "practise", "countIn", "begin", "kept", "nothing", "sent", "stop", "fail"];
    for (const state of Object.keys(TABLE)) {
      for (const happening of HAPPENINGS) {
        const { machine, attempt, ends } = attempted();
        machine.state = /** @type {any} */ (state);
        const isTaken = machine.tell(/** @type {any} */ (happening));
        const isOver = isTaken && ["prepare", "stop", "fail", "kept", "nothing"].includes(happening);
        assert.deepEqual(ends, isOver ? [happening] : [], `${happening} in ${state}`);
        assert.equal(attempt.isCurrent, !isOver, `${happening} in ${state}`);
      }
    }
  });
});
