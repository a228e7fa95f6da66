/** Shapes of data that several scripts share. They stand here, since scripts that named each other
 * in a circle could not be given hashed names. */

/** onset_s, length_s, pitch, velocity; seconds from bar 1 */
type PlainNote = [number, number, number, number];

interface PlainBar {
  number: number;
  start: number;
  end: number;
  start_tick: number;
  end_tick: number;
  beats: number[];
}

interface Playing {
  hasLanes: boolean;
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
  /** How a keyboard's layout moves with its home note; none for pads. */
  typing: { rows: [string[], number][]; scale: number[]; home: number } | null;
  pads: { name: string; pitch: number }[];
  take: PlainNote[] | null;
  /** Pedal, bend, modulation and pressure of the take: second, status, data1, data2. */
  controls?: [number, number, number, number][];
  /** Of each note of a take in several passes: its pass, from 0. */
  passOf?: number[];
  /** The take's corrected copy. */
  corrected?: PlainNote[] | null;
  backing?: Backing | null;
}

/** What went wrong in a take: the note's id, and the seconds in which it is heard with its run-up. */
type Fault = [string, number, number];

/** How a recording's click sounds; level 0 to 1. */
interface ClickRules {
  on: boolean;
  sound: string;
  level: number;
  divides: number;
}

interface Backing {
  notes: PlainNote[];
  level: number;
  hasLanes: boolean;
  whileRecording: boolean;
}

interface PlayOrder {
  what: "target" | "take" | "both" | "corrected" | "nothing";
  from: number;
  to: number;
  rate: number;
  loop: boolean;
  click: boolean;
  /** Hands or lanes of the part that are not heard. */
  silent?: string[];
  /** Notes of the part that are heard, by number; without it all. */
  only?: Set<number>;
  backing?: Backing | null;
  /** Only what was played in this pass, from 0. */
  pass?: number;
  /** The part at the left, the take at the right. */
  apart?: boolean;
  /** Second of the music with which to begin, instead of the first bar's. */
  start?: number;
  /** Only these stretches, one after the other. */
  places?: [number, number][];
}

/** What the Stand needs of its exercise besides. */
interface StandData extends Playing {
  /** What typing keys reach of the part, and a layout of its own for two hands; none for pads. */
  reach: { notes: number; as_they_lie: number; from_best: number; best: number; by_two_hands: number; layout: Record<string, number>; easier: string } | null;
  /** The lowest and the highest pitch that a player needs. */
  compass: [number, number];
  /** Where a part that is played by ear is heard, and how often yet; null for as often as wanted. */
  byEar?: { url: string; left: number | null } | null;
  /** Where it is told that a part was heard which is to be heard before it is recorded. */
  hearsFirst?: { url: string } | null;
  bpm: number;
  /** What a tempo counts, as the reader calls it. */
  beatValue: string;
  part: number;
  countInBars: number;
  middleC: number;
  ownFifths: number;
  keyText: string;
  allowed: [number, number];
  range: [number, number];
  passes: number;
  /** The bar from whose end on a recording is a take, however it ends. */
  countsAfter: number;
  click: ClickRules;
  backing: Backing | null;
  /** Of a kit: the lane of each number. */
  lanes: Record<string, string>;
}

/** Bars of the part that are played, whose they are, and how fast. */
interface Chosen {
  from: number;
  to: number;
  loop: boolean;
  /** Hands or lanes that the player plays; empty for all. */
  mine: string[];
  /** Hands or lanes that are not heard. */
  silent: string[];
  bpm: number;
}

/** time_s on the audio clock (0: at once), status, data1, data2 */
type TimedMessage = [number, number, number, number];

/** A MIDI message with its event's own time stamp, in ms. */
interface NoteInput {
  timeStamp: number;
  bytes: number[];
}

interface Beat {
  bar: number;
  beat: number;
  beats: number;
  isCountIn: boolean;
}

/** Why a recording ended; `again` is a start that was broken off for another. */
type Ending = "itself" | "stopped" | "unplugged" | "closed" | "stalled" | "again";

/** time_ms from the downbeat, status, data1, data2 */
type RawEvent = [number, number, number, number];

/** A take on its way to the server. */
interface Parcel {
  id: string;
  user: string;
  url: string;
  body: Record<string, unknown>;
  /** When it was last written on, in ms; none once it is whole. */
  recordingAt?: number;
  /** Why the server does not take it. */
  why?: string;
}

/** Django's catalog for scripts: the text in the reader's language. */
/** Draws at once what an act will have done; gives back how to take that away again. */
type Echo = () => () => void;

declare function gettext(text: string): string;
declare function pgettext(context: string, text: string): string;
declare function ngettext(one: string, many: string, count: number): string;
/** Fills %(name)s gaps. */
declare function interpolate(text: string, figures: object, named: true): string;

declare const htmx: {
  process(element: Element): void;
  ajax(verb: string, url: string, context: { target: string | Element; swap?: string; source?: Element; values: Record<string, string> | FormData }): Promise<void>;
  swap(target: string, content: string, how: { swapStyle: string; swapDelay: number; settleDelay: number }): void;
};
