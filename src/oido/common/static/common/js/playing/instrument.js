/** Keys and pads drawn on the page, with the letters of the typing keys on them. */
import { letterOf } from "./key_letters.js";

const BLACK = [1, 3, 6, 8, 10];
const MARGIN_KEYS = 3;
const MIN_SPAN = 17;
const SPAN_OF_MANUAL = 11;
/** A key that a finger meets easily is so wide; narrower than the other one it is not met any more. */
const [FINGER_PX, NARROW_PX] = [44, 34];
const LINE_OF_FIFTHS = "FCGDAEB";
/** A key's notes and those beside it on the line of fifths: the raised seventh of its minor key is among them. */
const FLATTER_BY = 3;

/** @param {number} pitch @param {number} fifths of the key @param {number} middleC the octave of middle C */
export function pitchName(pitch, fifths, middleC) {
  let place = fifths - FLATTER_BY;
  while ((((7 * place) % 12) + 12) % 12 !== pitch % 12) place += 1;
  const raised = Math.floor((place + 1) / 7);
  const sign = raised < 0 ? "♭".repeat(-raised) : raised > 1 ? "𝄪" : "♯".repeat(raised);
  const letter = LINE_OF_FIFTHS[(((place + 1) % 7) + 7) % 7];
  return `${letter}${sign}${Math.floor((pitch - raised) / 12) - 5 + middleC}`;
}

/** @param {Map<string, number>} layout @param {number} pitch */
function letterAt(layout, pitch) {
  const code = [...layout].find(([, p]) => p === pitch)?.[0];
  return code ? letterOf(code) : "";
}

/**
 * @param {HTMLElement} place @param {number[]} pitches of the part @param {Map<string, number>} layout
 * @param {(pitch: number) => string} name
 */
export function drawKeyboard(place, pitches, layout, name) {
  let low = Math.min(...pitches) - MARGIN_KEYS;
  let high = Math.max(...pitches) + MARGIN_KEYS;
  while (high - low < MIN_SPAN) (high += 1), (low -= 1);
  place.replaceChildren(manual(low, high, layout, name));
}

/**
 * The keys that are needed and no others, wide enough for fingers: in two manuals or more, the higher one above, where one
 * would be too narrow.
 * @param {HTMLElement} place @param {number[]} needed @param {Map<string, number>} layout
 * @param {(pitch: number) => string} name @param {boolean} isTight is there room for one manual, as long as its keys are met?
 */
export function drawManuals(place, needed, layout, name, isTight = false) {
  const [low, high] = [Math.min(...needed), Math.max(...needed)];
  const most = Math.max(1, Math.floor(place.clientWidth / NARROW_PX));
  const room = isTight ? most : Math.max(1, Math.floor(place.clientWidth / FINGER_PX));
  if (whitesOf(low, high).length <= room) return place.replaceChildren(manual(...widened(low, high), layout, name));
  place.replaceChildren(...parted(needed, most).map((some) => manual(...widened(Math.min(...some), Math.max(...some)), layout, name)));
}

/** Pitches in two groups, or in as many as it takes to fit each into so many white keys, the highest first. @param {number[]} pitches @param {number} room
 * @returns {number[][]} */
function parted(pitches, room) {
  const middle = parting(pitches);
  const halves = [pitches.filter((pitch) => pitch >= middle), pitches.filter((pitch) => pitch < middle)];
  return halves.filter((half) => half.length > 0).flatMap((half) => {
    const [low, high] = [Math.min(...half), Math.max(...half)];
    const least = whitesOf(...widened(low, low)).length;
    return low === high || whitesOf(low, high).length <= Math.max(room, least) ? [half] : parted(half, room);
  });
}

/** Some keys more than a very few. @param {number} low @param {number} high @returns {[number, number]} */
function widened(low, high) {
  while (high - low < SPAN_OF_MANUAL) (high += 1), (low -= 1);
  return [low, high];
}

/** The lowest pitch of the upper manual: behind the widest gap near the middle, so that a hand is not parted.
 * @param {number[]} needed */
function parting(needed) {
  const pitches = [...new Set(needed)].sort((a, b) => a - b);
  const centre = (pitches[0] + pitches[pitches.length - 1]) / 2;
  let best = pitches[pitches.length - 1];
  let most = -Infinity;
  for (let k = 1; k < pitches.length; k++) {
    const worth = pitches[k] - pitches[k - 1] - Math.abs((pitches[k] + pitches[k - 1]) / 2 - centre) / 2;
    if (worth > most) [most, best] = [worth, pitches[k]];
  }
  return best;
}

/** @param {number} low @param {number} high */
function whitesOf(low, high) {
  const whites = [];
  for (let pitch = low; pitch <= high; pitch++) if (!BLACK.includes(pitch % 12)) whites.push(pitch);
  return whites;
}

/** @param {number} low @param {number} high @param {Map<string, number>} layout @param {(pitch: number) => string} name */
function manual(low, high, layout, name) {
  if (BLACK.includes(low % 12)) low -= 1;
  if (BLACK.includes(high % 12)) high += 1;
  const keyboard = document.createElement("div");
  keyboard.className = "keyboard";
  const whites = whitesOf(low, high);
  const width = 100 / whites.length;
  for (let pitch = low; pitch <= high; pitch++) {
    const isBlack = BLACK.includes(pitch % 12);
    const button = key(pitch, isBlack ? "black" : "white", name(pitch));
    const index = whites.filter((w) => w < pitch).length;
    button.style.left = `${isBlack ? index * width - width * 0.3 : index * width}%`;
    button.style.width = `${isBlack ? width * 0.6 : width}%`;
    const letter = letterAt(layout, pitch);
    button.textContent = [letter, isBlack ? "" : name(pitch)].filter(Boolean).join("\n");
    keyboard.append(button);
  }
  return keyboard;
}

/** @param {HTMLElement} place @param {{name: string, pitch: number}[]} pads @param {Map<string, number>} layout */
export function drawPads(place, pads, layout) {
  const row = document.createElement("div");
  row.className = "pads";
  for (const pad of pads) {
    const button = key(pad.pitch, "pad", pad.name);
    const letter = letterAt(layout, pad.pitch);
    button.textContent = [pad.name, letter].filter(Boolean).join("\n");
    row.append(button);
  }
  place.replaceChildren(row);
}

/** @param {number} pitch @param {string} className @param {string} label */
function key(pitch, className, label) {
  const button = document.createElement("button");
  button.type = "button";
  button.className = className;
  button.tabIndex = -1;
  button.dataset.pitch = String(pitch);
  button.setAttribute("aria-label", label);
  return button;
}

/** @param {HTMLElement} place @param {number} pitch @param {boolean} isDown */
export function showKey(place, pitch, isDown) {
  place.querySelector(`[data-pitch="${pitch}"]`)?.classList.toggle("is-down", isDown);
}
