/**
 * Where a player is who plays without a click: at the next moment of the part that has the key he strikes.
 *
 * It knows no page and no clock. A wrong key moves nothing; who leaves something out is found again a few moments on; who
 * goes back is found by a run of keys from there.
 */
const TOGETHER_S = 0.03;
/** So far ahead a key is looked for. */
const AHEAD = 6;
/** So many keys in a row, found nowhere ahead, say that he has gone elsewhere. */
const LOST = 3;

export class Follower {
  /** @param {PlainNote[]} target by onset @param {number} from second from which on it is played */
  constructor(target, from) {
    /** @type {{second: number, pitches: Set<number>}[]} */
    this.moments = [];
    for (const [onset, , pitch] of target) {
      if (onset < from - TOGETHER_S) continue;
      const last = this.moments[this.moments.length - 1];
      if (last && onset - last.second < TOGETHER_S) last.pitches.add(pitch);
      else this.moments.push({ second: onset, pitches: new Set([pitch]) });
    }
    /** The moment that was played last. */
    this.at = -1;
    /** @type {Set<number>} keys of it that were struck */
    this.struck = new Set();
    /** @type {number[]} keys that were found nowhere */
    this.strays = [];
  }

  /** The second of the part that a key belongs to; null where it is none of the next. @param {number} pitch */
  hear(pitch) {
    const here = this.moments[this.at];
    if (here?.pitches.has(pitch) && !this.struck.has(pitch)) {
      this.struck.add(pitch);
      return here.second;
    }
    for (let k = this.at + 1; k <= Math.min(this.at + AHEAD, this.moments.length - 1); k++) {
      if (this.moments[k].pitches.has(pitch)) return this.moveTo(k, pitch);
    }
    this.strays.push(pitch);
    return this.strays.length >= LOST ? this.search() : null;
  }

  /** @param {number} moment @param {number} pitch */
  moveTo(moment, pitch) {
    this.at = moment;
    this.struck = new Set([pitch]);
    this.strays = [];
    return this.moments[moment].second;
  }

  /** Where the last keys stand one after the other; the nearest place before the one that was reached. */
  search() {
    const last = this.strays.slice(-LOST);
    for (let k = Math.min(this.at, this.moments.length - LOST); k >= 0; k--) {
      if (last.every((pitch, j) => this.moments[k + j]?.pitches.has(pitch))) return this.moveTo(k + LOST - 1, last[LOST - 1]);
    }
    return null;
  }
}
