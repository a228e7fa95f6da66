/** A part that is played by ear: it comes as sound, each hearing is counted, and no note of it is on the page. */
import { ask } from "../../common/js/signed_out.js";

export class ByEar {
  /** @param {StandParts} parts */
  constructor(parts) {
    this.parts = parts;
    /** @type {AudioBufferSourceNode | null} */
    this.node = null;
    /** Number of the hearing that was fetched and has not sounded yet: it is counted once, however often it is fetched. */
    this.hearing = "";
  }

  /** Is there a hearing left? */
  get isLeft() {
    return this.parts.data.byEar?.left !== 0;
  }

  async hear() {
    const { data, machine, say, why, sound } = this.parts;
    if (!data.byEar) return;
    if (!this.isLeft) return say(gettext("You have heard it as often as this exercise allows."));
    if (!machine.tell("prepare")) return;
    const { preparation } = machine;
    this.hearing ||= crypto.randomUUID();
    say(gettext("Fetching the sound …"));
    try {
      await sound.open();
      // One that was given up meanwhile is not asked for.
      if (!machine.isPreparing(preparation)) return;
      const response = await ask(data.byEar.url, { method: "POST", body: new URLSearchParams({ hearing: this.hearing }) });
      if (!response.ok) {
        machine.tell("fail");
        data.byEar.left = 0;
        this.show();
        return say(gettext("You have heard it as often as this exercise allows."));
      }
      const left = response.headers.get("X-Hears-Left");
      const node = sound.context.createBufferSource();
      node.buffer = await sound.context.decodeAudioData(await response.arrayBuffer());
      if (!machine.isPreparing(preparation)) return;
      node.connect(sound.context.destination);
      node.onended = () => this.ended(node);
      this.node = node;
      node.start();
      this.hearing = "";
      data.byEar.left = left ? Number(left) : null;
      this.show();
      machine.tell("hear");
      data.hearsFirst = null;
      say("");
    } catch (error) {
      if (!machine.isPreparing(preparation)) return;
      machine.tell("fail");
      say(interpolate(gettext("No sound (%(why)s). Reload the page to try again."), { why: why(error) }, true));
    }
  }

  /** @param {AudioBufferSourceNode} node */
  ended(node) {
    if (this.node !== node) return;
    this.node = null;
    if (this.parts.machine.state === "hearing") this.parts.machine.tell("stop");
  }

  stop() {
    const node = this.node;
    this.node = null;
    node?.stop();
  }

  /** How often it may be heard yet, beside the button. */
  show() {
    const { data, find } = this.parts;
    const remaining = find("hears-left");
    const left = data.byEar?.left;
    if (!remaining || !data.byEar) return;
    remaining.textContent =
      left === null || left === undefined ? "" : interpolate(ngettext("You may listen once more.", "You may listen %(n)s more times.", left), { n: left }, true);
  }
}
