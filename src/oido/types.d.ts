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
  kind: string;
  bars: PlainBar[];
  target: PlainNote[];
  cues: PlainNote[];
  fifths: number;
  /** Key places of the computer keyboard and what they play. */
  layout: Record<string, number>;
  pads: { name: string; pitch: number }[];
  take: PlainNote[] | null;
}

/** How a recording's click sounds; level 0 to 1. */
interface ClickRules {
  on: boolean;
  sound: string;
  level: number;
  divides: number;
}

interface PlayOrder {
  what: "target" | "take" | "both";
  from: number;
  to: number;
  rate: number;
  loop: boolean;
  click: boolean;
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

/** time_ms from the downbeat, status, data1, data2 */
type RawEvent = [number, number, number, number];

/** A take on its way to the server. */
interface Parcel {
  id: string;
  user: string;
  url: string;
  body: Record<string, unknown>;
}

/** Django's catalog for scripts: the text in the reader's language. */
declare function gettext(text: string): string;
declare function ngettext(one: string, many: string, count: number): string;
/** Fills %(name)s gaps. */
declare function interpolate(text: string, figures: object, named: true): string;

declare const htmx: {
  ajax(verb: string, url: string, context: { target: string; swap: string; values: Record<string, string> }): Promise<void>;
};
