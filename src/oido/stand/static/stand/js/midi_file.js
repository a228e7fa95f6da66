/** A recording as a Standard MIDI File, to be kept outside of the browser and imported again. */

const TICKS_A_SECOND = 1000;
const END_OF_TRACK = [0x00, 0xff, 0x2f, 0x00];

/**
 * One track in which a tick is a millisecond: a quarter note of one second, in 1,000 ticks.
 * @param {RawEvent[]} events @returns {Uint8Array}
 */
export function midiFile(events) {
  const ordered = [...events].sort(([a], [b]) => a - b);
  const first = Math.min(0, ordered[0]?.[0] ?? 0);
  const track = [0x00, 0xff, 0x51, 0x03, ...bigEndian(1_000_000, 3)];
  let before = 0;
  for (const [time, status, one, two] of ordered) {
    const tick = Math.round(time - first);
    const isShort = (status & 0xe0) === 0xc0;
    track.push(...variableLength(tick - before), status, one, ...(isShort ? [] : [two]));
    before = tick;
  }
  track.push(...END_OF_TRACK);
  const head = [...ascii("MThd"), ...bigEndian(6, 4), ...bigEndian(0, 2), ...bigEndian(1, 2), ...bigEndian(TICKS_A_SECOND, 2)];
  return new Uint8Array([...head, ...ascii("MTrk"), ...bigEndian(track.length, 4), ...track]);
}

/** @param {string} text */
function ascii(text) {
  return [...text].map((letter) => letter.charCodeAt(0));
}

/** @param {number} value @param {number} bytes */
function bigEndian(value, bytes) {
  return Array.from({ length: bytes }, (_, k) => (value >> (8 * (bytes - 1 - k))) & 0xff);
}

/** Seven bits a byte, all but the last with the eighth set. @param {number} value */
function variableLength(value) {
  const bytes = [value & 0x7f];
  for (let rest = value >> 7; rest > 0; rest >>= 7) bytes.unshift((rest & 0x7f) | 0x80);
  return bytes;
}
