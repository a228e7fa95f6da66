/**
 * The sound bank for the pages: piano, electric piano, organ, strings, bass and a kit, trimmed from Debian's
 * MuseScore_General_Lite (MIT). The piano keeps one mono layer and every second sampled zone, so
 * that it arrives quickly.
 */
import { readFileSync } from "node:fs";
import { GeneratorTypes, SoundBankLoader } from "spessasynth_core";

const SOURCE = "/usr/share/sounds/sf3/MuseScore_General_Lite.sf3";
const PIANO = 0;
const ELECTRIC_PIANO = 4;
const STANDARD_KIT = 0;
/** General MIDI programs of which one layer is enough: church organ, string ensemble, acoustic bass. */
const ONE_LAYER = [19, 48, 32];
const KEYS = [21, 108];
const PADS = [35, 81];
/** Velocities that keep the piano's middle layer, which is then stretched over all. */
const PIANO_VELOCITIES = [5, 30, 70, 80];
const LAYER_TOP = 107;
/** Every one: a layer between those that some samples of velocities would name is silence. */
const ALL_VELOCITIES = Array.from({ length: 127 }, (_, n) => n + 1);

/** @returns {Buffer} */
export function trimmedBank() {
  const file = readFileSync(SOURCE);
  const bank = SoundBankLoader.fromArrayBuffer(
    file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength),
  );
  const wanted = new Map();
  for (const preset of bank.presets) {
    if (preset.bankMSB !== 0 && !preset.isGMGSDrum) continue;
    if (preset.isGMGSDrum && preset.program === STANDARD_KIT) {
      wanted.set(preset, combinations(PADS, ALL_VELOCITIES));
    } else if (!preset.isGMGSDrum && preset.program === PIANO) {
      wanted.set(preset, combinations(KEYS, PIANO_VELOCITIES));
    } else if (!preset.isGMGSDrum && preset.program === ELECTRIC_PIANO) {
      wanted.set(preset, combinations(KEYS, ALL_VELOCITIES));
    } else if (!preset.isGMGSDrum && ONE_LAYER.includes(preset.program)) {
      wanted.set(preset, combinations(KEYS, [80]));
    }
  }
  bank.trim(wanted);
  for (const preset of bank.presets) {
    if (preset.isGMGSDrum || preset.program !== PIANO) continue;
    for (const zone of preset.zones) {
      if (zone.velRange.max === LAYER_TOP) zone.velRange.max = 127;
      if (zone.velRange.min <= PIANO_VELOCITIES[0]) zone.velRange.min = 0;
    }
    for (const instrument of new Set(preset.zones.map((zone) => zone.instrument))) thin(instrument);
  }
  bank.removeUnusedElements();
  return Buffer.from(bank.writeSF2());
}

/** @returns {Map<number, Set<number>>} each key with the velocities to keep */
function combinations([low, high], velocities) {
  const found = new Map();
  for (let key = low; key <= high; key++) found.set(key, new Set(velocities));
  return found;
}

/** One side of each stereo pair, in the middle; and every second zone, stretched over its neighbour. */
function thin(instrument) {
  for (const zone of instrument.zones) zone.sample.unlinkSample();
  for (let n = instrument.zones.length - 1; n >= 0; n--) {
    if (instrument.zones[n].sample.name.endsWith("(R)")) instrument.deleteZone(n, true);
  }
  const zones = [...instrument.zones].sort((a, b) => a.keyRange.min - b.keyRange.min);
  for (let n = 0; n + 1 < zones.length; n += 2) {
    zones[n].keyRange.max = zones[n + 1].keyRange.max;
    instrument.deleteZone(instrument.zones.indexOf(zones[n + 1]), true);
  }
  for (const zone of instrument.zones) zone.setGenerator(GeneratorTypes.pan, 0);
}
