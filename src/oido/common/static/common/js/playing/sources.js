/** The table of what can be played on. A new source is a module beside it in `sources/`, a row here and one in `oido/common/sources.py`. */
import { MidiSource } from "./sources/midi.js";
import { RobotSource } from "./sources/robot.js";
import { ScreenSource } from "./sources/screen.js";
import { TypingSource } from "./sources/typing.js";

/**
 * @typedef {{start(): Promise<string>, stop(): void, device: string}} Source  start() resolves to words for the page,
 *   or throws an Error whose message says why not
 *
 * @typedef {{
 *   receive(input: NoteInput): void,
 *   say(words: string): void,
 *   showState(words: string): void,
 *   lost?(name: string): void,
 *   device?: string,
 *   showDevices(devices: import("./sources/midi.js").Device[], chosen: string): void,
 *   surface: HTMLElement,
 *   layout: Map<string, number>,
 *   rows: import("./sources/typing.js").Rows,
 *   newLayout(layout: Map<string, number>): void,
 *   fixedVelocity(): number,
 *   robot?: {url: string, habits(): string, key(): string},
 * }} Page  what a page has for its sources; `device` is the name of the one that was chosen here before
 *
 * @typedef {{
 *   make(page: Page): Source,
 *   isDrawn: boolean,
 *   isTyped: boolean,
 *   hasDevices: boolean,
 *   isAlwaysReady: boolean,
 *   help(): string[],
 * }} SourceRow  drawn on the page; played by typing; of several devices; ready without a note played first; what to try when nothing arrives
 */

/** @type {Record<string, SourceRow>} */
export const SOURCES = {
  midi: {
    make: (page) => new MidiSource(page.receive, page.say, page.showDevices, page.lost, page.device),
    isDrawn: false,
    isTyped: false,
    hasDevices: true,
    isAlwaysReady: false,
    help: () => [
      gettext("Is the instrument switched on, and is its cable plugged in at both ends?"),
      gettext("Close other programs that use it, unplug it, and plug it in again."),
      gettext("Allow MIDI for this page: look for the icon next to the address bar."),
      gettext("Nothing helps? Choose typing keys or on-screen keys."),
    ],
  },
  typing: {
    make: (page) => new TypingSource(page.layout, page.rows, page.receive, { onLayout: page.newLayout, onState: page.showState }),
    isDrawn: true,
    isTyped: true,
    hasDevices: false,
    isAlwaysReady: false,
    help: () => [
      gettext("Click an empty part of the page, then press a key of the middle row."),
      gettext("Is another window in front? Then the keys go there."),
    ],
  },
  screen: {
    make: (page) => new ScreenSource(page.surface, page.receive, page.fixedVelocity),
    isDrawn: true,
    isTyped: false,
    hasDevices: false,
    isAlwaysReady: false,
    help: () => [gettext("Press a key drawn below the music, with a finger or the mouse.")],
  },
  robot: {
    make: ({ robot, receive }) => {
      if (!robot) throw new Error("this page has no robot player");
      return new RobotSource(robot.url, robot.habits, robot.key, receive);
    },
    isDrawn: false,
    isTyped: false,
    hasDevices: false,
    isAlwaysReady: true,
    help: () => [],
  },
};
