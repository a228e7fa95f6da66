/** A note that is clicked is heard. */
import { CHANNEL_LIVE, NOTE_OFF, NOTE_ON, Sound, channelOf } from "../../common/js/sound.js";
import { hasLanes, music } from "./page.js";

const SOUND_MS = 350;

/** @type {Sound | null} */
let sound = null;

/** Sound a note that was clicked, once the sounds are there.
 * @param {SVGElement} note */
export async function sing(note) {
  const foot = /** @type {HTMLElement | null} */ (document.querySelector("[data-player]"));
  const pitch = Number(note.dataset.pitch);
  const velocity = Number(note.dataset.velocity);
  sound ??= new Sound();
  const channel = channelOf(CHANNEL_LIVE, hasLanes());
  await sound.open().catch(() => {});
  sound.play([[0, NOTE_ON | channel, pitch, velocity]]);
  setTimeout(() => sound?.play([[0, NOTE_OFF | channel, pitch, 64]]), SOUND_MS);
  music().dataset.sang = String(pitch);
}
