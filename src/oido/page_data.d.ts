/** Written by `./oido types` from src/oido/common/page_data.py and src/oido/stand/bodies.py: change those, and run it again. */

/** onset_s, length_s, pitch, velocity; seconds from bar 1 */
type PlainNote = [number, number, number, number];

/** second, status, data1, data2 */
type ControlChange = [number, number, number, number];

/** A bar in seconds from bar 1, and in ticks. */
interface PlainBar {
  number: number;
  start: number;
  end: number;
  start_tick: number;
  end_tick: number;
  beats: number[];
}

/** How a keyboard's layout moves with its home note. */
interface TypingLayout {
  /** Key places, and how many semitones they lie off the scale. */
  rows: [string[], number][];
  scale: number[];
  home: number;
}

interface Pad {
  name: string;
  pitch: number;
}

interface Backing {
  notes: PlainNote[];
  level: number;
  hasLanes: boolean;
  whileRecording: boolean;
}

/** How a recording's click sounds; level 0 to 1. */
interface ClickRules {
  on: boolean;
  sound: string;
  level: number;
  divides: number;
}

/** What a recorder needs of the recording rules. */
interface RecordingData {
  click: ClickRules;
  backing: Backing | null;
}

/** What a player needs of a part, and of a take over it. */
interface Playing {
  hasLanes: boolean;
  bpm: number;
  bars: PlainBar[];
  target: PlainNote[];
  /** Of each note of the target: its hand or lane. */
  voices: string[];
  cues: PlainNote[];
  /** The part's pedal: second, controller value. */
  pedal: [number, number][];
  fifths: number;
  /** Key places of the computer keyboard and what they play. */
  layout: Record<string, number>;
  /** None for pads. */
  typing: TypingLayout | null;
  pads: Pad[];
  take: PlainNote[] | null;
  /** Pedal, bend, modulation and pressure of the take. */
  controls?: ControlChange[];
  /** Of each note of a take in several passes: its pass, from 0. */
  passOf?: number[];
  /** The take's corrected copy. */
  corrected?: PlainNote[] | null;
  backing?: Backing | null;
}

/** What typing keys reach of the part, and a layout of its own for two hands. */
interface KeysReach {
  notes: number;
  as_they_lie: number;
  from_best: number;
  best: number;
  by_two_hands: number;
  layout: Record<string, number>;
  easier: string;
}

interface ByEarRules {
  url: string;
  /** How often it may be heard yet; None for as often as wanted. */
  left: number | null;
}

interface ListenFirst {
  url: string;
}

/** What the Stand needs of its exercise besides. */
interface StandData extends Playing {
  click: ClickRules;
  /** None for pads. */
  reach: KeysReach | null;
  /** The lowest and the highest pitch that a player needs. */
  compass: [number, number];
  /** Of a part that is played by ear. */
  byEar: ByEarRules | null;
  /** Of a part that is to be heard before it is recorded. */
  listenFirst: ListenFirst | null;
  /** What a tempo counts, as the reader calls it. */
  beatValue: string;
  part: number;
  /** Of what is improvised: from which second on which pitch classes are allowed, or lanes' numbers; empty where all are. */
  allowedNotes: [number, number[]][];
  /** Of each note of the target. */
  fingers: (number | null)[];
  countInBars: number;
  middleC: number;
  ownFifths: number;
  keyText: string;
  allowed: [number, number];
  range: [number, number];
  passes: number;
  /** The bar from whose end on a recording is a take, however it ends. */
  countsAfter: number;
  lanes: Record<number, string>;
  /** In the language of the page; lanes are told apart by `lanes`. */
  laneNames: Record<number, string>;
}

/** How a loop that was practised went. */
interface LoopAnswer {
  points: number;
  isClean: boolean;
  earNote: string;
  needed: number;
  chart?: string;
  inTempo?: boolean;
  /** Clean loops in a row, where it is of a rung. */
  row?: number;
  neededLoops?: number;
  isPassed?: boolean;
  ladder?: string;
}

/** How bars went at the student's own pace. */
interface PaceAnswer {
  isComplete: boolean;
  isClean: boolean;
  words: string;
  /** Bars that are worth practising next. */
  loop: [number, number] | null;
  isPassed?: boolean;
  ladder?: string;
}

/** What taps along with a click say of the latency. */
interface LatencyAnswer {
  offsetMs: number;
  spreadMs: number;
  taps: number;
  leftOut: number;
  isSteady: boolean;
}

/** What came from an instrument in one go. */
interface RecordedBody {
  id: string;
  source: "midi" | "typing" | "screen" | "robot" | "file" | "none";
  latency_ms: number;
  recorded_at: string;
  device?: string;
  /** Numbers that pads send, and those that are meant. */
  pads?: Record<number, number> | null;
}

interface TakeBody extends RecordedBody {
  part: number;
  events: [number, number, number, number][];
  /** As a number, or as text. */
  tempo_bpm?: number | string | null;
  fifths?: number | null;
  heard_click?: boolean | null;
  ending?: "itself" | "stopped" | "unplugged" | "closed" | "stalled";
}

/** A further pass; one without events only takes away. */
interface PassBody extends RecordedBody {
  way: "over" | "replace";
  from_ms: number;
  until_ms: number;
  events?: [number, number, number, number][] | null;
  /** What it replaces, or all: lanes of a kit. */
  lanes?: string[] | null;
}

/** What was practised: a rung by its number, or chosen bars. */
interface PractisedBody {
  first_bar: number;
  last_bar: number;
  fifths: number;
  source: "midi" | "typing" | "screen" | "robot" | "file" | "none";
  events?: [number, number, number, number][] | null;
  rung?: number | null;
  hand?: string;
  lanes?: string[] | null;
}

/** Bars that were played at one's own pace. */
interface PaceBody extends PractisedBody {
}

/** One loop against the click. */
interface LoopBody extends PractisedBody {
  bpm: number;
  latency_ms: number;
}

/** Settings of the person who plays, by name: when each was set, in ms, and what. */
interface SettingsBody {
  kept: Record<string, [number, unknown]>;
}

/** Taps along with a click: times in ms on one clock. */
interface TapsBody {
  taps?: number[];
  beats?: number[];
}
