/** Three notes as one plays oneself: does this computer sound at all? */
import { CHANNEL_LIVE, NOTE_OFF, NOTE_ON, channelOf } from "../../common/js/sound.js";
import { noSound } from "./hearing.js";

const NOTES = [60, 64, 67];
const [LEAD_S, EACH_S] = [0.1, 0.35];
const [VELOCITY, RELEASE] = [90, 64];

/** @param {import("../../common/js/sound.js").Sound} sound @param {StandData} data */
async function testSound(sound, data) {
  const hasLanes = data.hasLanes;
  const channel = channelOf(CHANNEL_LIVE, hasLanes);
  await sound.ready([channel]);
  const start = sound.context.currentTime + LEAD_S;
  const pitches = hasLanes ? data.pads.slice(0, NOTES.length).map((pad) => pad.pitch) : NOTES;
  sound.play(
    pitches.flatMap((pitch, k) => [
      [start + k * EACH_S, NOTE_ON | channel, pitch, VELOCITY],
      [start + (k + 1) * EACH_S, NOTE_OFF | channel, pitch, RELEASE],
    ]),
  );
}

/** @param {{data: StandData, find: (what: string) => any}} page @param {import("../../common/js/sound.js").Sound} sound
 * @param {import("./input_check.js").InputCheck} check @param {import("./latency.js").Latency} latency */
export async function heardHere({ data, find }, sound, check, latency) {
  try {
    await testSound(sound, data);
    check.say(gettext("Three notes were just played. Not heard? Turn this computer up, check which speakers or headphones it plays on, and check under “Set up” that nothing is muted."));
    latency.show();
  } catch (error) {
    check.say(noSound(error));
  }
  find("sound-test").blur();
}
