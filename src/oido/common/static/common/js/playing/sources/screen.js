const NOTE_ON = 0x90;
const NOTE_OFF = 0x80;
const [SOFTEST, STRONGEST] = [36, 118];

/** Keys and pads on the screen: mouse, pen and touch. */
export class ScreenSource {
  /** @param {HTMLElement} surface @param {(input: NoteInput) => void} onInput @param {() => number} fixed the velocity of all notes; 0 where the place struck says it */
  constructor(surface, onInput, fixed) {
    this.surface = surface;
    this.onInput = onInput;
    this.fixed = fixed;
    this.device = "";
    /** @type {Map<number, number>} */
    this.held = new Map();
    this.press = this.press.bind(this);
    this.release = this.release.bind(this);
  }

  async start() {
    this.surface.addEventListener("pointerdown", this.press);
    window.addEventListener("pointerup", this.release);
    window.addEventListener("pointercancel", this.release);
    return gettext("Press a key to hear it.");
  }

  /** @param {PointerEvent} event */
  press(event) {
    const key = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest("[data-pitch]"));
    if (!key) return;
    event.preventDefault();
    const pitch = Number(key.dataset.pitch);
    this.held.set(event.pointerId, pitch);
    this.onInput({ timeStamp: event.timeStamp, bytes: [NOTE_ON, pitch, this.fixed() || velocityAt(key, event)] });
  }

  /** @param {PointerEvent} event */
  release(event) {
    const pitch = this.held.get(event.pointerId);
    if (pitch === undefined) return;
    this.held.delete(event.pointerId);
    this.onInput({ timeStamp: event.timeStamp, bytes: [NOTE_OFF, pitch, 64] });
  }

  stop() {
    this.surface.removeEventListener("pointerdown", this.press);
    window.removeEventListener("pointerup", this.release);
    window.removeEventListener("pointercancel", this.release);
  }
}

/** A key struck at its front, or a pad in its middle, is struck strongly.
 * @param {HTMLElement} key @param {PointerEvent} event */
function velocityAt(key, event) {
  const box = key.getBoundingClientRect();
  const [x, y] = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
  const share = key.classList.contains("pad") ? 1 - Math.min(1, 2 * Math.hypot(x - 0.5, y - 0.5)) : y;
  return Math.round(SOFTEST + (STRONGEST - SOFTEST) * Math.min(1, Math.max(0, share)));
}
