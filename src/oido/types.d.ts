/** Shapes of data that several scripts share. They stand here, since scripts that named each other
 * in a circle could not be given hashed names. */

/** What went wrong in a take: the note's id, and the seconds in which it is heard with its run-up. */
type Fault = [string, number, number];

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
/** Where the synthesiser is, and of each sound its first and its full version: by General MIDI program, or "kit". */
type SoundAddresses = { worklet: string; sounds: Record<string, { first: string; full: string }> };
type TimedMessage = [number, number, number, number];

/** A MIDI message with its event's own time stamp, in ms. */
interface NoteInput {
  timeStamp: number;
  bytes: [number, number, number];
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
  body: TakeBody | PassBody;
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
