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
 * It is the only gate. Whoever starts something asks first; what takes a while to get ready asks again when it is, and stops
 * what it has started where the machine refuses.
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

export class Machine {
  /** @param {(state: State, before: State) => void} onChange */
  constructor(onChange = () => {}) {
    this.onChange = onChange;
    /** @type {State} */
    this.state = "idle";
    /** Counts preparations: one that was overtaken by another finds a higher number. */
    this.preparation = 0;
  }

  get isRecording() {
    return RECORDS.has(this.state);
  }

  get isSounding() {
    return SOUNDS.has(this.state);
  }

  /** Is this preparation still the one that is wanted? @param {number} preparation */
  isPreparing(preparation) {
    return this.state === "preparing" && this.preparation === preparation;
  }

  /** @param {Happening} happening */
  can(happening) {
    return TABLE[this.state][happening] !== undefined;
  }

  /** Something happens; false where it means nothing now. @param {Happening} happening */
  tell(happening) {
    const next = TABLE[this.state][happening];
    if (next === undefined) return false;
    const before = this.state;
    this.state = next;
    if (happening === "prepare") this.preparation += 1;
    if (next !== before) this.onChange(next, before);
    return true;
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
