/** The keyboard or the pads on the screen: for all that one plays on this page, or for what is needed now. */
import { drawKeyboard, drawManuals, drawPads, showKey } from "../../common/js/playing/instrument.js";

const SEMITONES = 12;
/** In a window so low there is room for one manual beside the music. */
const LOW_PX = 520;

export class DrawnInstrument {
  /** @param {HTMLElement} place @param {StandData} data @param {(pitch: number) => string} name
   * @param {() => boolean} isTyped are typing keys chosen? */
  constructor(place, data, name, isTyped) {
    this.place = place;
    this.data = data;
    this.name = name;
    this.isTyped = isTyped;
  }

  /** @param {Map<string, number>} layout @param {number[]} needed pitches that are played now: for those alone there is room then */
  draw(layout, needed = []) {
    const { data, place } = this;
    const isTyped = this.isTyped();
    if (!isTyped) layout = new Map();
    if (data.hasLanes) return drawPads(place, needed.length ? data.pads.filter((pad) => needed.includes(pad.pitch)) : data.pads, layout);
    if (needed.length > 0) return drawManuals(place, needed, layout, this.name);
    // With typing keys all that they reach is shown; under fingers what the part needs, in two manuals where one is too narrow.
    if (isTyped) return drawKeyboard(place, [...data.compass, ...layout.values()], layout, this.name);
    const pitches = data.target.map(([, , pitch]) => pitch);
    return drawManuals(place, pitches.length > 0 ? pitches : data.compass, layout, this.name, window.innerHeight < LOW_PX);
  }

  /** @param {number} pitch @param {boolean} isDown */
  show(pitch, isDown) {
    showKey(this.place, pitch, isDown);
  }

  /** Light the keys of these pitches, and no others, with the fingers that play them. @param {number[]} pitches
   * @param {Map<number, number | null>} [fingers] */
  light(pitches, fingers = new Map()) {
    for (const key of this.keys) {
      const pitch = Number(key.dataset.pitch);
      const isNext = pitches.includes(pitch);
      key.classList.toggle("is-next", isNext);
      const finger = isNext ? fingers.get(pitch) : null;
      if (finger) key.dataset.finger = String(finger);
      else delete key.dataset.finger;
    }
  }

  /** Keys that may be played now: pitch classes, or pads by their numbers; none for all. @param {number[]} pitches */
  allow(pitches) {
    for (const key of this.keys) {
      const pitch = Number(key.dataset.pitch);
      key.classList.toggle("is-allowed", pitches.includes(this.data.hasLanes ? pitch : pitch % SEMITONES));
    }
  }

  /** Keys that are held by mistake. @param {number[]} pitches */
  mistaken(pitches) {
    for (const key of this.keys) key.classList.toggle("is-mistaken", pitches.includes(Number(key.dataset.pitch)));
  }

  get keys() {
    return /** @type {NodeListOf<HTMLElement>} */ (this.place.querySelectorAll("[data-pitch]"));
  }
}
