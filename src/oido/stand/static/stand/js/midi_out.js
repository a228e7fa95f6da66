/**
 * The student's own instrument as the one that sounds: the part, the click and the keys go there, and this computer is silent.
 *
 * What is scheduled waits here until shortly before its time, so that it can still be forgotten.
 */
import { ALL_NOTES_OFF, CHANNEL_LIVE, CONTROL, NOTE_OFF, NOTE_ON } from "../../common/js/sound.js";
import { keep, read } from "./settings.js";

const EVERY_MS = 40;
const AHEAD_MS = 120;
const KIT_FROM = 9;
/** High and low wood block of General MIDI, on its percussion channel. */
const [CLICK_FIRST, CLICK, PERCUSSION] = [76, 77, 9];
const CLICK_MS = 60;

const PROGRAM = 0xc0;
const VOLUME = 7;
const PAN = 10;

export class MidiOut {
  /**
   * @param {{find: (what: string) => any, sound: import("../../common/js/sound.js").Sound,
   *   clock: import("../../common/js/playing/clock.js").Clock, check: import("./input_check.js").InputCheck}} needs
   */
  constructor(needs) {
    this.needs = needs;
    this.choice = /** @type {HTMLSelectElement} */ (needs.find("midi-out"));
    /** @type {MIDIAccess | undefined} */
    this.access = undefined;
    /** @type {MIDIOutput | null} */
    this.output = null;
    /** @type {[number, number[]][]} time of the page in ms, bytes; in order */
    this.waiting = [];
    this.timer = 0;
    this.choice.addEventListener("change", () => {
      keep("midi-out", this.choice.value);
      this.choose(this.choice.value);
    });
    // Nobody is asked to allow MIDI who has not chosen an instrument.
    this.choice.addEventListener("focus", () => this.list());
    const kept = String(read("midi-out", ""));
    if (kept) this.list().then(() => this.choose(kept));
  }

  /** The instruments that there are. */
  async list() {
    if (!this.access) {
      this.access = await navigator.requestMIDIAccess?.({ sysex: false }).catch(() => undefined);
      this.access?.addEventListener("statechange", () => this.comeAndGone());
    }
    const outputs = [...(this.access?.outputs?.values() ?? [])];
    const chosen = this.choice.value;
    this.choice.replaceChildren(new Option(gettext("this computer"), ""), ...outputs.map((output) => new Option(output.name ?? gettext("a device"), output.name ?? "")));
    this.choice.value = outputs.some((output) => output.name === chosen) ? chosen : "";
  }

  /** An instrument that is unplugged sounds nothing: this computer does, and says so; plugged in again, it is chosen again. */
  async comeAndGone() {
    const wanted = String(read("midi-out", ""));
    const was = this.output;
    await this.list();
    if (this.output?.state === "connected" || !wanted) return;
    this.choose(wanted);
    const status = this.needs.find("midi-out-said");
    if (this.output) status.textContent = "";
    else if (was) status.textContent = gettext("The instrument that sounded is unplugged: this computer sounds now.");
  }

  /** By name: the numbers of devices change from day to day. @param {string} name */
  choose(name) {
    this.hush();
    this.output = [...(this.access?.outputs?.values() ?? [])].find((output) => name && output.name === name && output.state === "connected") ?? null;
    this.choice.value = this.output ? name : "";
    this.needs.sound.outside = this.output ? this : null;
    window.clearInterval(this.timer);
    if (this.output) this.timer = window.setInterval(() => this.send(), EVERY_MS);
  }

  /** @param {TimedMessage[]} events times on the audio clock, 0 for at once */
  play(events) {
    const { clock, check } = this.needs;
    for (const [time, status, ...bytes] of events) {
      const [kind, channel] = [status & 0xf0, status & 0x0f];
      // It has a volume and sounds of its own; what is played on it sounds already.
      if (kind === PROGRAM || (kind === CONTROL && (bytes[0] === VOLUME || bytes[0] === PAN))) continue;
      if (check.row.hasDevices && (channel === CHANNEL_LIVE || channel === CHANNEL_LIVE + KIT_FROM)) continue;
      this.add(time ? 1000 * time + clock.offsetMs : 0, [kind | (channel >= KIT_FROM ? PERCUSSION : 0), ...bytes]);
    }
    this.send();
  }

  /** @param {number} time on the audio clock @param {boolean} isFirst @param {number} volume 0 to 1 */
  click(time, isFirst, volume) {
    const at = 1000 * time + this.needs.clock.offsetMs;
    const key = isFirst ? CLICK_FIRST : CLICK;
    this.add(at, [NOTE_ON | PERCUSSION, key, Math.max(1, Math.round(127 * Math.min(1, volume)))]);
    this.add(at + CLICK_MS, [NOTE_OFF | PERCUSSION, key, 64]);
  }

  /** @param {number} at in ms of the page @param {number[]} bytes */
  add(at, bytes) {
    const place = this.waiting.findLastIndex(([other]) => other <= at);
    this.waiting.splice(place + 1, 0, [at, bytes]);
  }

  /** What is due soon; a time that is over is now. */
  send() {
    const until = performance.now() + AHEAD_MS;
    while (this.waiting.length > 0 && this.waiting[0][0] <= until) {
      const [at, bytes] = /** @type {[number, number[]]} */ (this.waiting.shift());
      this.output?.send(bytes, Math.max(at, performance.now()));
    }
  }

  hush() {
    this.waiting = [];
    for (const channel of [0, PERCUSSION]) this.output?.send([CONTROL | channel, ALL_NOTES_OFF, 0]);
  }
}
