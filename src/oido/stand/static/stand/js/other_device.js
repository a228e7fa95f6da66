/** A MIDI device plays while something else is chosen: the page says so and offers to play on it. */

import { midiPermission } from "../../common/js/playing/sources/midi.js";

const NOTE_ON = 0x90;

export class OtherDevice {
  /** @param {HTMLElement[]} places beside the choice of what is played on, and in the playing view
   * @param {import("./input_check.js").InputCheck} check @param {import("./playing_view.js").PlayingView} view */
  constructor(places, check, view) {
    this.places = places;
    this.check = check;
    this.view = view;
    /** @type {MIDIAccess | null} */
    this.access = null;
  }

  /** Another source was chosen. @param {string} kind */
  async watch(kind) {
    for (const place of this.places) place.replaceChildren();
    if (kind === "midi") return;
    this.access ??= await granted();
    if (!this.access || this.check.kind === "midi") return;
    this.access.onstatechange = () => this.listen();
    this.listen();
  }

  listen() {
    if (this.check.kind === "midi") return;
    for (const input of this.access?.inputs.values() ?? []) {
      input.onmidimessage = ({ data }) => {
        if (data && (data[0] & 0xf0) === NOTE_ON && data[2] > 0) this.offer(input.name ?? gettext("a device"));
      };
    }
  }

  /** @param {string} name */
  offer(name) {
    if (this.places[0].hasChildNodes()) return;
    const { check, view } = this;
    const chosen = check.choice.selectedOptions[0].textContent?.trim();
    const words = interpolate(gettext("%(name)s sends notes, but “%(chosen)s” is selected."), { name, chosen }, true);
    const label = interpolate(gettext("Play on %(name)s"), { name }, true);
    for (const place of this.places) {
      const button = Object.assign(document.createElement("button"), { type: "button", className: "word", textContent: label });
      button.addEventListener("click", async () => {
        await check.change("midi");
        if (view.isOpen) view.drawKeys();
      });
      place.replaceChildren(words, " ", button);
    }
  }
}

/** Where MIDI was allowed for this page before; nobody is asked to allow it here. @returns {Promise<MIDIAccess | null>} */
async function granted() {
  if ((await midiPermission()) !== "granted") return null;
  return navigator.requestMIDIAccess?.({ sysex: false }).catch(() => null) ?? null;
}
