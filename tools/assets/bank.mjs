/**
 * The sounds: piano, electric piano, organ, strings, bass and a kit, trimmed from Debian's MuseScore_General_Lite (MIT). The
 * piano keeps one mono layer and every second sampled zone.
 *
 * The server renders from all of them in one bank. The pages load each sound alone, and of each a first version before the
 * full one: fewer zones, one side, short samples, so that it has arrived before a student is ready to play.
 */
import { spawnSync } from "node:child_process";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { BasicSoundBank, GeneratorTypes, SoundBankLoader } from "spessasynth_core";

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

/** Of the kit's first version the drums that parts have lanes for (`ear.notes.STANDARD_KIT`). */
const FIRST_DRUMS = new Set([35, 36, 37, 38, 39, 40, 41, 42, 43, 44, 45, 46, 47, 48, 49, 50, 51, 52, 53, 55, 56, 57, 59]);
/** Seconds after which a sample of a first version ends, where it does not repeat; and over which it fades then. */
const FIRST_S = { piano: 2.6, kit: 0.85 };
const FADE_S = 0.25;
const NO_LOOP = 0;
/** A sound whose samples are as few as this has no smaller version. */
const SMALL_BYTES = 190_000;

/** @param {Buffer} file */
function opened(file) {
  return SoundBankLoader.fromArrayBuffer(file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength));
}

/**
 * All sounds in one bank, and each alone: under its General MIDI program, or "kit", its full version and, unless that is
 * small, a first one.
 * @returns {Promise<{all: Buffer, sounds: Record<string, {first: Buffer | null, full: Buffer}>}>}
 */
export async function soundBanks() {
  await BasicSoundBank.isSF3DecoderReady;
  const all = trimmedBank();
  const sounds = {};
  for (const { program, isGMGSDrum } of opened(all).presets) {
    const full = alone(all, program, isGMGSDrum);
    const first = full.length <= SMALL_BYTES ? null : firstVersion(full, program, isGMGSDrum);
    sounds[isGMGSDrum ? "kit" : program] = { first, full };
  }
  return { all, sounds };
}

/** @param {Buffer} all @param {number} program @param {boolean} isKit */
function alone(all, program, isKit) {
  const bank = opened(all);
  for (const preset of [...bank.presets]) {
    if (preset.program !== program || preset.isGMGSDrum !== isKit) bank.deletePreset(preset);
  }
  bank.removeUnusedElements();
  return Buffer.from(bank.writeSF2());
}

/** Fewer zones, one side of each stereo pair, and short samples. @param {Buffer} full @param {number} program @param {boolean} isKit */
function firstVersion(full, program, isKit) {
  const bank = opened(full);
  const endsAfter = isKit ? FIRST_S.kit : program === PIANO ? FIRST_S.piano : null;
  if (isKit) bank.trim(new Map([[bank.presets[0], new Map([...FIRST_DRUMS].map((key) => [key, new Set(ALL_VELOCITIES)]))]]));
  for (const instrument of new Set(bank.presets[0].zones.map((zone) => zone.instrument))) {
    if (!isKit) thin(instrument);
    if (endsAfter) for (const zone of instrument.zones) zone.setGenerator(GeneratorTypes.sampleModes, NO_LOOP);
  }
  bank.removeUnusedElements();
  const place = mkdtempSync(`${tmpdir()}/oido-samples-`);
  const samples = bank.samples.map((sample, n) => {
    const path = `${place}/${n}.f32`;
    writeFileSync(path, Buffer.from(shortened(sample, endsAfter).buffer));
    return { path, rate: sample.sampleRate };
  });
  const { status, stderr } = spawnSync(".venv/bin/python", ["tools/assets/vorbis.py"], { input: JSON.stringify(samples) });
  if (status !== 0) throw new Error(`samples could not be compressed: ${stderr}`);
  bank.samples.forEach((sample, n) => sample.setCompressedData(readFileSync(`${place}/${n}.ogg`)));
  rmSync(place, { recursive: true });
  return Buffer.from(bank.writeSF2());
}

/** A sample as far as the end of its loop, or faded out. @param {number | null} endsAfter seconds; null for one that repeats */
function shortened(sample, endsAfter) {
  const audio = sample.getAudioData();
  if (endsAfter === null) return audio.slice(0, Math.min(audio.length, sample.loopEnd + sample.sampleRate / 100));
  const short = audio.slice(0, Math.round(endsAfter * sample.sampleRate));
  const fade = Math.round(FADE_S * sample.sampleRate);
  if (short.length < audio.length) for (let n = 1; n <= fade; n++) short[short.length - n] *= (n - 1) / fade;
  sample.loopStart = 0;
  sample.loopEnd = short.length - 1;
  return short;
}

/** @returns {Buffer} */
function trimmedBank() {
  const bank = opened(readFileSync(SOURCE));
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
    if (/\(R\)$|\dR$/.test(instrument.zones[n].sample.name)) instrument.deleteZone(n, true);
  }
  const zones = [...instrument.zones].sort((a, b) => a.keyRange.min - b.keyRange.min);
  for (let n = 0; n + 1 < zones.length; n += 2) {
    zones[n].keyRange.max = zones[n + 1].keyRange.max;
    instrument.deleteZone(instrument.zones.indexOf(zones[n + 1]), true);
  }
  for (const zone of instrument.zones) zone.setGenerator(GeneratorTypes.pan, 0);
}
