/** The Bench's page: what is picked is shown at once; what is done to it, the server does. */
import { isForControl } from "../../common/js/main.js";

const STEP_TICKS = "120";
/** A semiquaver: how far the arrow keys move a note. */

/** @returns {HTMLElement} */
const work = () => /** @type {HTMLElement} */ (document.getElementById("work"));

/** Notes that are picked, by number. */
const picked = () => new Set((document.getElementById("pick")?.dataset.picked ?? "").split(" ").filter(Boolean));

function showPicked() {
  const notes = picked();
  for (const note of work().querySelectorAll(".target")) {
    note.classList.toggle("is-picked", notes.has(note.id.slice(1)));
  }
}

/** @param {string} act @param {Record<string, string>} values */
function post(act, values = {}) {
  htmx.ajax("POST", `${work().dataset.url}${act}/`, { target: "#work", swap: "outerHTML", values });
}

/** @param {string} tool @param {Record<string, string>} values */
const use = (tool, values) => post(`do/${tool}`, values);

/** The note under the pointer: the places of bars, which play when clicked, lie over the notes.
 * @param {MouseEvent} event */
function noteAt(event) {
  return document.elementsFromPoint(event.clientX, event.clientY).find((e) => e.classList.contains("target"));
}

/** @type {Record<string, () => void>} */
const KEYS = {
  ArrowRight: () => use("touch", { way: "next" }),
  ArrowLeft: () => use("touch", { way: "before" }),
  Escape: () => use("touch", { way: "none" }),
  ArrowUp: () => moveBy({ semitones: "1" }),
  ArrowDown: () => moveBy({ semitones: "-1" }),
  "Shift+ArrowRight": () => moveBy({ times: "1" }),
  "Shift+ArrowLeft": () => moveBy({ times: "-1" }),
  Delete: () => picked().size && use("delete", {}),
  Backspace: () => picked().size && use("delete", {}),
};

/** @param {{times?: string, semitones?: string}} way */
function moveBy({ times = "0", semitones = "0" }) {
  if (picked().size) use("move", { value: STEP_TICKS, times, semitones });
}

document.addEventListener(
  "click",
  (event) => {
    const note = work().contains(/** @type {Node} */ (event.target)) ? noteAt(event) : undefined;
    if (!note) return;
    event.stopPropagation();
    document.getElementById("bench-page")?.focus();
    note.classList.toggle("is-picked");
    use("touch", { note: note.id.slice(1), ...(event.shiftKey ? { more: "on" } : {}) });
  },
  { capture: true },
);

document.addEventListener("dblclick", (event) => {
  const page = document.querySelector("#bench-page svg");
  if (!(page instanceof SVGSVGElement) || !page.contains(/** @type {Node} */ (event.target)) || noteAt(event)) return;
  event.preventDefault();
  const place = new DOMPoint(event.clientX, event.clientY).matrixTransform(page.getScreenCTM()?.inverse());
  const field = (/** @type {string} */ name) =>
    /** @type {HTMLInputElement} */ (document.getElementById(`steps-${name}`)).value;
  use("put", { x: String(place.x), y: String(place.y), value: field("value"), velocity: field("velocity") });
});

document.addEventListener("keydown", (event) => {
  if ((event.ctrlKey || event.metaKey) && event.code === "KeyZ") {
    const target = /** @type {HTMLElement} */ (event.target);
    if (target.closest("input, textarea")) return;
    event.preventDefault();
    // Not by the button: it answers only once htmx has come to know it, and keys are quicker.
    post(event.shiftKey ? "redo" : "undo");
    return;
  }
  if (isForControl(event) || document.activeElement?.id !== "bench-page") return;
  const act = KEYS[(event.shiftKey ? "Shift+" : "") + event.key];
  if (!act) return;
  event.preventDefault();
  act();
});

document.body.addEventListener("htmx:afterSettle", showPicked);
showPicked();
