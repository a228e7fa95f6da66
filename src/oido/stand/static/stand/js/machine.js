/**
 * The Stand as a state machine: what it is doing, and what may happen then. It knows no page, no sound and no clock.
 *
 * idle         nothing sounds, nothing is recorded
 * preparing    sounds are being loaded, or a take is being fetched
 * hearing      the part or a take is played
 * practising   a loop is played and judged
 * countingIn   the click counts in; what is played in its last beat belongs to the take
 * recording    a take or pass is being recorded
 * sending      the take is on its way
 *
 * It is the only gate, and it alone ends things. Whoever starts something asks for an attempt, with what ends it; what takes a
 * while to get ready asks again when it is. Whatever takes its place, or refuses it, ends what was started. So hearing,
 * practising and recording need not know each other.
 */

/** @typedef {"idle" | "preparing" | "hearing" | "practising" | "countingIn" | "recording" | "sending"} State */
/** @typedef {"prepare" | "hear" | "practise" | "countIn" | "begin" | "kept" | "nothing" | "sent" | "stop" | "fail"} Happening */

/** @type {Record<State, Partial<Record<Happening, State>>>} */
export const TABLE = {
  idle: { prepare: "preparing", sent: "idle", stop: "idle" },
  preparing: { prepare: "preparing", hear: "hearing", practise: "practising", countIn: "countingIn", begin: "recording", fail: "idle", stop: "idle", sent: "preparing" },
  hearing: { prepare: "preparing", stop: "idle", fail: "idle", sent: "hearing" },
  practising: { prepare: "preparing", stop: "idle", fail: "idle", sent: "practising" },
  countingIn: { begin: "recording", kept: "sending", nothing: "idle", fail: "idle", sent: "countingIn" },
  recording: { begin: "recording", kept: "sending", nothing: "idle", fail: "idle", sent: "recording" },
  sending: { sent: "idle", prepare: "preparing", stop: "sending", fail: "idle" },
};

/** What is taken in while it lasts must not be given up for something else. */
const RECORDS = new Set(["countingIn", "recording"]);
const SOUNDS = new Set(["hearing", "practising"]);
/** With these whatever was going on is over. @type {Set<Happening>} */
const ENDS = new Set(["prepare", "stop", "fail", "kept", "nothing"]);

export class Machine {
  /** @param {(state: State, before: State) => void} onChange */
  constructor(onChange = () => {}) {
    this.onChange = onChange;
    /** @type {State} */
    this.state = "idle";
    /** What is being prepared, or goes on. @type {Attempt | null} */
    this.current = null;
  }

  get isRecording() {
    return RECORDS.has(this.state);
  }

  get isSounding() {
    return SOUNDS.has(this.state);
  }

  /** Something happens; false where it means nothing now. @param {Happening} happening */
  tell(happening) {
    const next = TABLE[this.state][happening];
    if (next === undefined) return false;
    const before = this.state;
    this.state = next;
    const over = ENDS.has(happening) ? this.current : null;
    if (over) this.current = null;
    if (next !== before) this.onChange(next, before);
    over?.end(happening);
    return true;
  }

  /** Something is to be got ready in place of whatever sounds; null where it has to wait, because somebody records.
   * @param {(how: Happening) => void} onEnd ends what was started; called once, however it ends */
  attempt(onEnd) {
    const attempt = new Attempt(this, onEnd);
    if (!this.tell("prepare")) return null;
    this.current = attempt;
    return attempt;
  }
}

/** Something that is got ready, and then goes on until it ends. */
export class Attempt {
  /** @param {Machine} machine @param {(how: Happening) => void} onEnd */
  constructor(machine, onEnd) {
    this.machine = machine;
    this.onEnd = onEnd;
    this.isOver = false;
  }

  /** Is it still being got ready? Asked after everything that takes time. */
  get isWanted() {
    return this.machine.current === this && this.machine.state === "preparing";
  }

  /** Is it what goes on now, or is being got ready? */
  get isCurrent() {
    return this.machine.current === this;
  }

  /** It begins; false where it is refused or not wanted any more: what was started has ended then.
   * @param {Happening} happening */
  begin(happening) {
    if (this.isWanted && this.machine.tell(happening)) return true;
    this.end("fail");
    return false;
  }

  /** It could not be got ready, or cannot go on; true if anybody still waits for it. */
  fail() {
    if (!this.isCurrent) {
      this.end("fail");
      return false;
    }
    return this.machine.tell("fail");
  }

  /** @param {Happening} how */
  end(how) {
    if (this.isOver) return;
    this.isOver = true;
    this.onEnd(how);
  }
}

/** What a key means, by what is going on.
 * @param {string} code @param {boolean} withShift @param {State} state
 * @returns {"stopRecording" | "stopSound" | "hear" | "practise" | "record" | "again" | ""} */
export function meaning(code, withShift, state) {
  const isRecording = RECORDS.has(state);
  if (code === "Space") {
    if (isRecording) return "stopRecording";
    return SOUNDS.has(state) || state === "preparing" ? "stopSound" : "hear";
  }
  if (code === "Enter") {
    if (isRecording) return withShift ? "" : "again";
    if (!withShift) return "record";
    return state === "practising" ? "stopSound" : "practise";
  }
  return "";
}
