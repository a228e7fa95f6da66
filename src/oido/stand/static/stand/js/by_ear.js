/** A part that is played by ear: it comes as sound, each hearing is counted, and no note of it is on the page. */
import { ask } from "../../common/js/signed_out.js";
import { noSound } from "./hearing.js";

export class ByEar {
  /**
   * @param {{data: StandData, machine: import("./machine.js").Machine, say: (words: string) => void,
   *   sound: import("../../common/js/sound.js").Sound, place: HTMLElement | null}} needs  the place says how often it may be heard yet
   */
  constructor(needs) {
    this.needs = needs;
    /** @type {AudioBufferSourceNode | null} */
    this.node = null;
    /** Number of the hearing that was fetched and has not sounded yet: it is counted once, however often it is fetched. */
    this.hearing = "";
  }

  /** Is there a hearing left? */
  get isLeft() {
    return this.needs.data.byEar?.left !== 0;
  }

  async hear() {
    const { data, machine, say, sound } = this.needs;
    if (!data.byEar) return;
    if (!this.isLeft) {
      machine.tell("stop");
      return say(gettext("You have heard it as often as this exercise allows."));
    }
    const attempt = machine.attempt((how) => this.ended(how));
    if (!attempt) return;
    this.hearing ||= crypto.randomUUID();
    say(gettext("Fetching the sound …"));
    try {
      await sound.open();
      // One that was given up meanwhile is not asked for.
      if (!attempt.isWanted) return;
      const response = await ask(data.byEar.url, { method: "POST", body: new URLSearchParams({ hearing: this.hearing }) });
      if (!response.ok) {
        data.byEar.left = 0;
        this.show();
        if (attempt.fail()) say(gettext("You have heard it as often as this exercise allows."));
        return;
      }
      const left = response.headers.get("X-Hears-Left");
      const node = sound.context.createBufferSource();
      node.buffer = await sound.context.decodeAudioData(await response.arrayBuffer());
      if (!attempt.begin("hear")) return;
      node.connect(sound.context.destination);
      node.onended = () => attempt.isCurrent && machine.tell("stop");
      this.node = node;
      node.start();
      this.hearing = "";
      data.byEar.left = left ? Number(left) : null;
      this.show();
      data.listenFirst = null;
      say("");
    } catch (error) {
      if (attempt.fail()) say(noSound(error));
    }
  }

  /** @param {import("./machine.js").Happening} how */
  ended(how) {
    this.node?.stop();
    this.node = null;
    if (how === "stop") this.needs.say("");
  }

  /** How often it may be heard yet, beside the button. */
  show() {
    const { data, place } = this.needs;
    const left = data.byEar?.left;
    if (!place || !data.byEar) return;
    place.textContent =
      left === null || left === undefined ? "" : interpolate(ngettext("You may listen once more.", "You may listen %(n)s more times.", left), { n: left }, true);
  }
}
