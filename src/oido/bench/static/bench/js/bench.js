/** The Bench's page: what is picked is shown at once; what is done to it, the server does. */
import { isForControl, whenWhole } from "../../common/js/main.js";
import { CHANNEL_LIVE, NOTE_OFF, NOTE_ON, Sound, channelOf } from "../../common/js/sound.js";
import { fieldValue, post, use, work } from "./ask.js";
import { music, noteAt, numberNotes, picked, placeIn, showPicked } from "./page.js";
import { startPointer } from "./pointer.js";

const STEP_TICKS = "120";
/** A semiquaver: how far the arrow keys move a note. */
const STRONGER = 4;
const SOUND_MS = 350;

/** @type {Record<string, () => void>} */
const KEYS = {
  ArrowRight: () => use("touch", { way: "next" }),
  ArrowLeft: () => use("touch", { way: "before" }),
  Escape: () => use("touch", { way: "none" }),
  ArrowUp: () => moveBy({ semitones: "1" }),
  ArrowDown: () => moveBy({ semitones: "-1" }),
  "Shift+ArrowRight": () => moveBy({ times: "1" }),
  "Shift+ArrowLeft": () => moveBy({ times: "-1" }),
  "Alt+ArrowRight": () => lengthen("longer"),
  "Alt+ArrowLeft": () => lengthen("shorter"),
  "+": () => strengthen(STRONGER),
  "-": () => strengthen(-STRONGER),
  Delete: () => picked().size && use("delete", {}),
  Backspace: () => picked().size && use("delete", {}),
};

/** @param {{times?: string, semitones?: string}} way */
function moveBy({ times = "0", semitones = "0" }) {
  if (picked().size) use("move", { value: STEP_TICKS, times, semitones });
}

/** @param {"longer" | "shorter"} how */
function lengthen(how) {
  if (picked().size && !("hasLanes" in music().dataset)) use("length", { how, value: STEP_TICKS });
}

/** @param {number} steps */
function strengthen(steps) {
  if (picked().size) use("velocity", { how: "change", amount: String(steps) });
}

/** @type {Sound | null} */
let sound = null;

/** Sound a note that was clicked, once the sounds are there.
 * @param {SVGElement} note */
async function sing(note) {
  const foot = /** @type {HTMLElement | null} */ (document.querySelector("[data-player]"));
  const pitch = Number(note.dataset.pitch);
  const velocity = Number(note.dataset.velocity);
  sound ??= new Sound({ worklet: foot?.dataset.worklet ?? "", bank: foot?.dataset.bank ?? "" });
  const channel = channelOf(CHANNEL_LIVE, "hasLanes" in music().dataset);
  await sound.open().catch(() => {});
  sound.play([[0, NOTE_ON | channel, pitch, velocity]]);
  setTimeout(() => sound?.play([[0, NOTE_OFF | channel, pitch, 64]]), SOUND_MS);
  music().dataset.sang = String(pitch);
}

document.addEventListener(
  "click",
  (event) => {
    const note = work().contains(/** @type {Node} */ (event.target)) ? noteAt(event) : undefined;
    if (!note) return;
    event.stopPropagation();
    music().focus({ preventScroll: true });
    note.classList.toggle("is-picked");
    sing(note);
    use("touch", { note: note.id.slice(1), ...(event.shiftKey ? { more: "on" } : {}) });
  },
  { capture: true },
);

document.addEventListener("note-wanted", (event) => use("touch", { note: /** @type {CustomEvent} */ (event).detail }));

document.addEventListener("dblclick", (event) => {
  const row = /** @type {Element} */ (event.target).closest("#bench-page svg");
  if (!(row instanceof SVGSVGElement) || noteAt(event)) return;
  event.preventDefault();
  const place = placeIn(row, event);
  const [x, y] = [String(place.x), String(place.y)];
  use("put", { row: row.dataset.row ?? "0", x, y, value: fieldValue("steps-value"), velocity: fieldValue("steps-velocity") });
});

document.addEventListener("keydown", (event) => {
  const isOnPage = document.activeElement?.id === "bench-page";
  if (event.ctrlKey || event.metaKey) {
    const target = /** @type {HTMLElement} */ (event.target);
    if (target.closest("input, textarea")) return;
    if (event.code === "KeyZ") {
      event.preventDefault();
      // Not by the button: it answers only once htmx has come to know it, and keys are quicker.
      post(event.shiftKey ? "redo" : "undo");
    } else if (event.code === "KeyA" && isOnPage) {
      event.preventDefault();
      use("touch", { way: "all" });
    }
    return;
  }
  if (!isOnPage || (isForControl(event) && !event.altKey)) return;
  const act = KEYS[(event.altKey ? "Alt+" : "") + (event.shiftKey && event.key !== "+" ? "Shift+" : "") + event.key];
  if (!act) return;
  event.preventDefault();
  act();
});

document.body.addEventListener("htmx:afterSettle", () => {
  numberNotes();
  showPicked();
});
document.body.addEventListener("htmx:beforeRequest", () => {
  const problem = document.getElementById("bench-problem");
  if (problem) problem.textContent = "";
});
startPointer();
showPicked();
whenWhole(() => (work().dataset.ready = "yes"));
