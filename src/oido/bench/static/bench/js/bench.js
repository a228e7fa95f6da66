/** The Bench's page: what is picked is shown at once, and so is what is done to it; the server does it. */
import { targetId } from "../../common/js/note_place.js";
import { isForControl, whenWhole } from "../../common/js/main.js";
import { newValue, post, use, useOnPicked, work } from "./ask.js";
import { copy, paste } from "./copying.js";
import { come, gone, moved, stretched } from "./echo.js";
import { barOfPlace, hasLanes, movePlace, music, numberNotes, pickedNotes, placeTick, showPicked, showPlace, ticksPerPx } from "./page.js";
import { keepFitted } from "./fit.js";
import { toText } from "./part_text.js";
import { startPointer } from "./pointer.js";
import { closeLeaf, isLook, openLeaf, stopShowing } from "./leaf.js";
import "./late.js";
import { toStrip } from "./strip.js";

/** A semiquaver: how far keys move a note. */
const STEP_TICKS = 120;
const STRONGER = 4;
const OCTAVE = 12;
/** A staff has seven steps where the ear has twelve. */
const STEPS_TO_SEMITONE = 7 / 12;

/** @param {{times?: number, semitones?: number}} way */
function move({ times = 0, semitones = 0 }) {
  const row = pickedNotes()[0]?.closest("svg");
  const x = row ? (times * STEP_TICKS) / ticksPerPx(row) : 0;
  useOnPicked("move", { value: String(STEP_TICKS), times: String(times), semitones: String(semitones) }, moved(pickedNotes, x, hasLanes() ? 0 : semitones * STEPS_TO_SEMITONE));
}

/** @param {"longer" | "shorter"} how */
function lengthen(how) {
  const row = pickedNotes()[0]?.closest("svg");
  if (hasLanes()) return;
  const px = row ? STEP_TICKS / ticksPerPx(row) : 0;
  useOnPicked("length", { how, value: String(STEP_TICKS) }, stretched(pickedNotes, how === "longer" ? px : -px));
}

/** @param {Record<string, string>} how */
const strengthen = (how) => useOnPicked("velocity", how);
const remove = () => useOnPicked("delete", {}, gone(pickedNotes));

/** A note where one writes next; the place goes on behind it. */
function put() {
  const bar = barOfPlace();
  const tick = placeTick();
  const near = pickedNotes()[0]?.getBBox();
  const x = bar ? bar.x + ((tick - bar.start) / (bar.end - bar.start)) * bar.width : 0;
  const row = () => barOfPlace()?.element.parentElement ?? null;
  const staff = bar && /** @type {SVGGraphicsElement} */ (bar.element).getBBox();
  use("put", { tick: String(tick), value: String(newValue()) }, come(row, x, near ? near.y + near.height / 2 : (staff?.y ?? 0) + 28));
  movePlace(1);
}

/** @type {Record<string, () => unknown>} */
const ACTS = {
  next: () => use("touch", { way: "next" }),
  before: () => use("touch", { way: "before" }),
  none: () => closeLeaf() || use("touch", { way: "none" }),
  all: () => use("touch", { way: "all" }),
  bars: () => useOnPicked("touch", { way: "bars" }),
  alike: () => useOnPicked("touch", { way: "alike" }),
  higher: () => move({ semitones: 1 }),
  lower: () => move({ semitones: -1 }),
  "octave-up": () => move({ semitones: OCTAVE }),
  "octave-down": () => move({ semitones: -OCTAVE }),
  earlier: () => move({ times: -1 }),
  later: () => move({ times: 1 }),
  shorter: () => lengthen("shorter"),
  longer: () => lengthen("longer"),
  louder: () => strengthen({ how: "change", amount: String(STRONGER) }),
  softer: () => strengthen({ how: "change", amount: String(-STRONGER) }),
  even: () => strengthen({ how: "even" }),
  copy,
  cut: async () => (await copy()) && remove(),
  paste,
  delete: remove,
  figures: () => openLeaf("note"),
  "place-before": () => movePlace(-1),
  "place-next": () => movePlace(1),
  put,
  hear: () => hearBar(),
  "to-tools": toStrip,
  "to-text": toText,
  undo: () => post("undo"),
  redo: () => post("redo"),
  keep: () => {
    stopShowing();
    post("keep");
  },
  "list-keys": () => /** @type {HTMLDialogElement | null} */ (document.getElementById("bench-keys-list"))?.showModal(),
};

/** The bar of the place, or of what is picked, heard by the foot line. */
function hearBar() {
  const bar = barOfPlace();
  if (bar) document.dispatchEvent(new CustomEvent("hear-bars", { detail: [bar.number, bar.number] }));
}

/** Which act a key is for: the page says so once, in its list of keys. */
const KEYS = new Map(
  [.../** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-keys]"))].flatMap((element) =>
    (element.dataset.keys ?? "").split(" ").map((/** @type {string} */ key) => /** @type {[string, string]} */ ([key, element.dataset.act ?? ""])),
  ),
);

/** As `aria-keyshortcuts` writes it. @param {KeyboardEvent} event */
function keyOf(event) {
  const isLetter = /^[a-z]$/i.test(event.key);
  const key = event.key === "+" ? "Plus" : isLetter ? event.key.toUpperCase() : event.key;
  const isShifted = event.shiftKey && (isLetter || event.key.length > 1);
  return `${event.ctrlKey || event.metaKey ? "Control+" : ""}${event.altKey ? "Alt+" : ""}${isShifted ? "Shift+" : ""}${key}`;
}

document.addEventListener("click", (event) => {
  const target = /** @type {Element} */ (event.target);
  const act = target.closest("button[data-act]")?.getAttribute("data-act");
  if (act) ACTS[act]?.();
});

document.getElementById("label-choice")?.addEventListener("change", (event) => {
  post("labels", new FormData(/** @type {HTMLFormElement} */ (event.currentTarget)));
});

document.addEventListener("note-wanted", (event) => use("touch", { note: /** @type {CustomEvent} */ (event).detail }));

document.addEventListener("keydown", (event) => {
  const isOnPage = document.activeElement?.id === "bench-page";
  const act = KEYS.get(keyOf(event));
  const isTyping = /** @type {HTMLElement} */ (event.target).closest("input, textarea, select");
  if (!act || isTyping || document.querySelector("dialog[open]")) return;
  // Taking back is done from anywhere; single keys mean something on the page of music alone.
  if (!isOnPage && !["undo", "redo"].includes(act)) return;
  if (isOnPage && isForControl(event) && !event.altKey && !event.ctrlKey && !event.metaKey) return;
  event.preventDefault();
  ACTS[act]?.();
});

/** Notes that quantising might put on the wrong line are ringed where they stand. */
function showUnclear() {
  const unclear = document.querySelector("[data-unclear]")?.getAttribute("data-unclear")?.split(" ").filter(Boolean) ?? [];
  for (const note of document.querySelectorAll(".target.is-unclear")) note.classList.remove("is-unclear");
  for (const number of unclear) document.getElementById(targetId(number))?.classList.add("is-unclear");
}

let isShown = false;
/** Once for all rows that one answer brings: each of them tells that it is there, when all are. */
document.body.addEventListener("htmx:afterSettle", () => {
  if (isShown) return;
  isShown = true;
  queueMicrotask(() => (isShown = false));
  numberNotes();
  showPicked();
  showUnclear();
  showPlace();
});
/** What went wrong is said until something else is done: to look at what would be done is nothing else. */
document.body.addEventListener("htmx:beforeRequest", (event) => {
  const problem = document.getElementById("bench-problem");
  const { target, requestConfig } = /** @type {CustomEvent} */ (event).detail;
  if (problem && requestConfig.verb === "post" && !isLook(target)) problem.textContent = "";
});
startPointer();
showPicked();
keepFitted();
/** What lies beside the music begins under the desk and ends over the foot line, however high these are. */
const edges = /** @type {[string, Element | null][]} */ ([["--desk", document.querySelector(".bench-desk")], ["--foot", document.querySelector(".foot")]]);
const measured = new ResizeObserver(() => {
  for (const [name, element] of edges) work().style.setProperty(name, `${element?.getBoundingClientRect().height ?? 0}px`);
});
for (const [, element] of edges) if (element) measured.observe(element);
whenWhole(() => (work().dataset.ready = "yes"));
