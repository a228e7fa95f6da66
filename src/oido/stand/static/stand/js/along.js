/** What sounds along while somebody records. */
import { describeBars } from "../../common/js/texts.js";
import { CHANNEL_BACKING, CHANNEL_PART, CHANNEL_TAKE, channelOf } from "../../common/js/sound.js";
import { notesAt } from "./how.js";

/**
 * Backing, the hands or lanes that are played by nobody, and the take that is laid into.
 * @param {StandData} data @param {Chosen} chosen @param {number} rate of the exercise's tempo
 * @param {PlainNote[]} take its notes at its own tempo
 */
export function soundsAlong(data, chosen, rate, take) {
  const hasLanes = data.hasLanes;
  const backing = data.backing?.whileRecording ? data.backing : null;
  const others = chosen.mine.length > 0 ? data.target.filter((_, k) => !chosen.silent.includes(data.voices[k])) : [];
  return [
    { notes: backing ? louder(notesAt(backing.notes, rate), backing.level) : [], channel: channelOf(CHANNEL_BACKING, backing?.hasLanes ?? false) },
    { notes: notesAt(others, rate), channel: channelOf(CHANNEL_PART, hasLanes) },
    { notes: take, channel: channelOf(CHANNEL_TAKE, hasLanes) },
  ];
}

/** What a pass leaves of a take. @param {PlainNote[]} take @param {import("./parcels.js").Into | null} into @param {PlainBar[]} bars */
export function leftOf(take, into, bars) {
  const [from, until] = [bars[0].start, bars[bars.length - 1].end];
  return into?.way === "replace" ? take.filter(([onset]) => onset < from || onset >= until) : take;
}

/** Said before it is played: where the pass goes, and what becomes of what is there.
 * @param {import("./parcels.js").Into} into @param {Chosen} chosen */
export function describePass(into, chosen) {
  const words = into.way === "replace"
    ? gettext("This pass replaces what is in %(bars)s. You can remove it again.")
    : gettext("This pass is recorded over %(bars)s; what is there stays.");
  return interpolate(words, { bars: describeBars(chosen.from, chosen.to) }, true);
}

/** @param {PlainNote[]} notes @param {number} level @returns {PlainNote[]} */
function louder(notes, level) {
  return notes.map(([onset, length, pitch, velocity]) => [onset, length, pitch, velocity * level]);
}
