/**
 * Drawn notation beside the Page view: fetched when it is opened, drawn anew when the part has changed,
 * and its notes are the page's notes: picking one shows the other.
 */
import { numberOf, targetId } from "./note_place.js";
const place = () => document.getElementById("notation");
let drawn = "";

const state = () => /** @type {HTMLElement | null} */ (document.querySelector("[data-playing-state]"))?.dataset.playingState ?? "only";

function draw() {
  const element = place();
  if (!element?.closest("details")?.open || drawn === state()) return;
  drawn = state();
  element.dispatchEvent(new Event("notation-wanted"));
}

/** The number of the note that a drawn head stands for.
 * @param {Element} head */
const noteOf = (head) => head.id.slice(1).split("-")[0];

function showPicked() {
  const picked = new Set([...document.querySelectorAll(".target.is-picked")].map((note) => numberOf(note)));
  for (const head of place()?.querySelectorAll(".note") ?? []) head.classList.toggle("is-picked", picked.has(noteOf(head)));
}

document.addEventListener("toggle", draw, { capture: true });
document.addEventListener("click", (event) => {
  const head = /** @type {Element} */ (event.target).closest("#notation .note");
  if (!head) return;
  document.dispatchEvent(new CustomEvent("note-wanted", { detail: noteOf(head) }));
  if (document.getElementById("work")) return;
  // Beside a page that nobody works on, picking only shows where the note is.
  for (const note of document.querySelectorAll(".target.is-picked")) note.classList.remove("is-picked");
  document.getElementById(targetId(noteOf(head)))?.classList.add("is-picked");
  showPicked();
});
document.body.addEventListener("htmx:afterSettle", () => {
  draw();
  showPicked();
});
document.addEventListener("page-put", () => (drawn = ""));
// It may have been opened before this script answered.
draw();
