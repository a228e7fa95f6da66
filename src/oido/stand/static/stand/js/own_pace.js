/**
 * Practice at the student's own pace: the music waits until the right keys are down. The rule is that of
 * `ear/recording/own_pace.py`, which follows what was played once more and says how it went.
 */
import { ask } from "../../common/js/signed_out.js";
import { describeBars } from "../../common/js/texts.js";
import { NOTE_OFF, NOTE_ON } from "../../common/js/sound.js";
import { ownNotes } from "./how.js";
import { keep, read } from "./settings.js";
import { noSound } from "./hearing.js";

/** Notes this near to one another are one step. */
const TOGETHER_S = 0.03;
/** So long before a step the line stands, so that its keys are the next ones. */
const BEFORE_S = 0.05;

/** Two keys of a chord are held for so long and the third does not come: the keyboard may not send it. */
const DROPPED_MS = 1500;
const HELD_KEYS = 2;

/** @typedef {{second: number, keys: Set<number | string>, pitches: number[]}} Step */

/** The steps of some notes, in order of time. @param {PlainNote[]} notes @param {(pitch: number) => number | string} keyOf
 * @returns {Step[]} */
export function stepsOf(notes, keyOf) {
  /** @type {Step[]} */
  const steps = [];
  for (const [second, , pitch] of notes) {
    const last = steps[steps.length - 1];
    if (last && second - last.second <= TOGETHER_S) {
      last.keys.add(keyOf(pitch));
      last.pitches.push(pitch);
    } else steps.push({ second, keys: new Set([keyOf(pitch)]), pitches: [pitch] });
  }
  return steps;
}

/** Goes from step to step as keys are struck. */
export class Walk {
  /** @param {Step[]} steps @param {(pitch: number) => number | string} keyOf @param {boolean} isHeld must all keys of a step be down at once? */
  constructor(steps, keyOf, isHeld) {
    this.steps = steps;
    this.keyOf = keyOf;
    this.isHeld = isHeld;
    this.at = 0;
    this.wrong = 0;
    /** @type {Set<number | string>} */
    this.struck = new Set();
    /** @type {Set<number | string>} */
    this.down = new Set();
    /** Wrong keys that are still down. @type {Set<number>} */
    this.mistaken = new Set();
  }

  get isOver() {
    return this.at === this.steps.length;
  }

  /** A key goes down. @param {number} pitch @returns {"moved" | "right" | "wrong" | ""} */
  strike(pitch) {
    if (this.isOver) return "";
    const key = this.keyOf(pitch);
    const { keys } = this.steps[this.at];
    if (!keys.has(key)) {
      this.wrong += 1;
      this.mistaken.add(pitch);
      return "wrong";
    }
    this.struck.add(key);
    this.down.add(key);
    if (![...keys].every((one) => this.struck.has(one) && (!this.isHeld || this.down.has(one)))) return "right";
    this.at += 1;
    this.struck.clear();
    return "moved";
  }

  /** A key comes up. @param {number} pitch */
  release(pitch) {
    this.down.delete(this.keyOf(pitch));
    this.mistaken.delete(pitch);
  }
}

/**
 * What it needs of the page.
 * @typedef {{
 *   root: HTMLElement, data: StandData, find: (what: string) => any, say: (words: string) => void, name: (pitch: number) => string,
 *   machine: import("./machine.js").Machine, sound: import("../../common/js/sound.js").Sound,
 *   check: import("./input_check.js").InputCheck, how: import("./how.js").How, view: import("./playing_view.js").PlayingView,
 *   instrument: import("./drawn_instrument.js").DrawnInstrument, onLoop: (from: number, to: number) => void,
 * }} Needs
 */

export class OwnPace {
  /** @param {Needs} needs */
  constructor(needs) {
    this.needs = needs;
    /** @type {Walk | null} */
    this.walk = null;
    /** @type {RawEvent[]} */
    this.events = [];
    /** @type {Chosen | null} */
    this.chosen = null;
    this.rung = 0;
    this.bar = -1;
    this.timer = 0;
  }

  /** @param {number} ofRung 0 for none */
  async start(ofRung = 0) {
    const { root, data, machine, find, say, sound, how, view } = this.needs;
    const attempt = machine.attempt((end) => this.ended(end));
    if (!attempt) return;
    this.chosen = how.chosen;
    this.rung = ofRung;
    const rung = ofRung ? /** @type {HTMLElement | null} */ (document.querySelector(`#ladder [data-rung="${ofRung}"]`)) : null;
    const asked = rung?.dataset.askedNotes?.split(" ").map(Number) ?? null;
    const keyOf = (/** @type {number} */ pitch) => (data.hasLanes ? (data.lanes[pitch] ?? pitch) : pitch);
    const notes = asked ? asked.map((n) => data.target[n]) : ownNotes(data, this.chosen);
    this.events = [];
    this.bar = -1;
    find("loop-news").textContent = "";
    view.open(this.chosen, true, asked);
    view.follower = null;
    view.waits = true;
    root.classList.add("is-at-own-pace");
    try {
      await sound.open();
      if (!attempt.isWanted || !attempt.begin("practise")) return;
      this.walk = new Walk(stepsOf(notes, keyOf), keyOf, !data.hasLanes);
      if (this.walk.isOver) {
        machine.tell("stop");
        return say(gettext("There is nothing to play in these bars."));
      }
      this.showStep();
    } catch (error) {
      if (attempt.fail()) say(noSound(error));
    }
  }

  get isOn() {
    return this.walk !== null;
  }

  /** @param {NoteInput} input */
  receive({ timeStamp, bytes: [status, pitch, velocity] }) {
    const { walk } = this;
    if (!walk) return;
    const kind = status & 0xf0;
    if (kind !== NOTE_ON && kind !== NOTE_OFF) return;
    this.events.push([timeStamp, kind, pitch, velocity]);
    if (kind === NOTE_OFF || velocity === 0) walk.release(pitch);
    else {
      const step = walk.steps[walk.at];
      const happened = walk.strike(pitch);
      if (happened === "wrong") this.needs.view.trace.note(pitch, step.second, "wrong");
      if (happened === "moved") {
        for (const each of step.pitches) this.needs.view.trace.note(each, step.second, "right");
        if (walk.isOver) return void this.needs.machine.tell("stop");
        this.showStep();
      }
    }
    this.watchForDropped();
    this.showMistaken();
  }

  /** The step that is waited for. */
  showStep() {
    const { view, say, name, how } = this.needs;
    if (!this.walk) return;
    const { second, pitches } = this.walk.steps[this.walk.at];
    view.show(second - BEFORE_S);
    view.due(pitches, second);
    const bar = view.barAt(second).number;
    const isNew = bar !== this.bar;
    this.bar = bar;
    const names = [...new Set(pitches.map(name))].join(", ");
    const inBar = interpolate(gettext("Bar %(bar)s: %(keys)s"), { bar, keys: names }, true);
    if (how.speaks === "beats" || (how.speaks === "bars" && isNew)) say(how.speaks === "beats" && !isNew ? names : inBar);
  }

  /** Many computer keyboards do not send a third key while two others are held: said once on each computer. */
  watchForDropped() {
    window.clearTimeout(this.timer);
    const { walk } = this;
    const { check, find } = this.needs;
    if (!walk || walk.isOver || !check.row.isTyped || read("dropped-keys", false)) return;
    const { keys } = walk.steps[walk.at];
    const held = [...keys].filter((key) => walk.down.has(key));
    if (held.length < HELD_KEYS || held.length !== keys.size - 1) return;
    this.timer = window.setTimeout(() => {
      keep("dropped-keys", true);
      find("warning").textContent = gettext("Does a key not play while you hold two others? Many computer keyboards cannot send three keys at once. Test yours at “Set up”, or play on an instrument or on the screen.");
    }, DROPPED_MS);
  }

  /** What is held by mistake. */
  showMistaken() {
    const { instrument, find, name } = this.needs;
    const mistaken = [...(this.walk?.mistaken ?? [])];
    instrument.mistaken(mistaken);
    find("mistaken").textContent = mistaken.length > 0 ? interpolate(gettext("Not %(keys)s."), { keys: mistaken.map(name).join(", ") }, true) : "";
  }

  /** It is over, or was given up. @param {import("./machine.js").Happening} how */
  ended(how) {
    const { root, say, view, find } = this.needs;
    root.classList.remove("is-at-own-pace");
    const { walk } = this;
    this.walk = null;
    window.clearTimeout(this.timer);
    view.close();
    find("mistaken").textContent = "";
    if (how === "stop") say("");
    if (walk && this.events.length > 0 && how === "stop") this.judge();
  }

  async judge() {
    const { root, data, find, check } = this.needs;
    const chosen = /** @type {Chosen} */ (this.chosen);
    const first = this.events[0][0];
    const isHands = !data.hasLanes;
    const news = find("loop-news");
    try {
      const response = await ask(root.dataset.ownPace ?? "", {
        method: "POST",
        headers: { "Content-Type": "application/json" },
        body: JSON.stringify(/** @satisfies {PaceBody} */ ({
          rung: this.rung || null, first_bar: chosen.from, last_bar: chosen.to,
          hand: isHands ? (chosen.mine[0] ?? "") : "", lanes: isHands ? [] : chosen.mine,
          fifths: data.fifths, source: check.kind, events: this.events.map(([time, ...bytes]) => [time - first, ...bytes]),
        })),
      });
      /** @type {PaceAnswer & {errors?: Record<string, string[]>}} */
      const answer = await response.json();
      if (!response.ok) throw new Error(Object.values(answer.errors ?? {}).flat().join(" "));
      news.textContent = answer.isPassed ? `${answer.words} ${gettext("Rung passed.")}` : answer.words;
      if (answer.loop) this.offer(news, answer.loop);
      const ladder = document.getElementById("ladder");
      if (ladder && answer.ladder) ladder.outerHTML = answer.ladder;
    } catch (error) {
      news.textContent = interpolate(gettext("This could not be checked. %(why)s"), { why: error instanceof Error ? error.message : error }, true);
    }
  }

  /** One press to practise what went wrong. @param {HTMLElement} place @param {[number, number]} loop */
  offer(place, [from, to]) {
    const words = interpolate(gettext("Practise %(bars)s"), { bars: describeBars(from, to) }, true);
    const button = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: words });
    button.addEventListener("click", () => this.needs.onLoop(from, to));
    place.append(" ", button);
  }
}
