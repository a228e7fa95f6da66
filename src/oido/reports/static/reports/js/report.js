/** The report's page of music: a note opens its card, faults are stepped through, ear notes point at theirs. */
import { targetId } from "../../common/js/note_place.js";
import { ask } from "../../common/js/signed_out.js";
import { pageData } from "../../common/js/main.js";

const page = () => /** @type {HTMLElement | null} */ (document.querySelector(".rows[data-page-view]"));
const card = () => /** @type {HTMLElement | null} */ (document.getElementById("note-card"));
const faults = () => /** @type {Fault[]} */ (pageData("faults") ?? []);
/** The note whose card is open, by its id. */
let at = "";
/** @type {string[]} ids of the notes that an ear note points at */
let pointed = [];

/** @param {string} id */
async function open(id) {
  const url = page()?.dataset.noteUrl?.replace("NOTE", id);
  if (!url) return;
  await htmx.ajax("GET", url, { target: "#note-card", swap: "outerHTML", values: {} });
  at = card()?.dataset.note ?? "";
  show();
  const note = document.getElementById(at);
  const box = note?.getBoundingClientRect();
  if (box && (box.top < 60 || box.bottom > window.innerHeight - 120)) {
    const calm = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
    note?.scrollIntoView({ block: "center", behavior: calm ? "auto" : "smooth" });
  }
}

function close() {
  at = "";
  card()?.replaceChildren();
  card()?.setAttribute("hidden", "");
  show();
}

/** The fault after the open note, or before it; the first, or last, where none is open.
 * @param {1 | -1} by */
function step(by) {
  const all = faults();
  if (all.length === 0) return;
  const here = all.findIndex(([id]) => id === at);
  // From a note that is no fault, its card knows which are beside it.
  const beside = card()?.querySelector(by > 0 ? "[data-after]" : "[data-before]")?.getAttribute("data-note-wanted");
  if (at && here < 0) {
    if (beside) open(beside);
  } else open(all[here < 0 ? (by > 0 ? 0 : all.length - 1) : Math.min(all.length - 1, Math.max(0, here + by))][0]);
}

function show() {
  for (const note of document.querySelectorAll(".rows .is-at, .rows .is-pointed")) note.classList.remove("is-at", "is-pointed");
  if (at) document.getElementById(at)?.classList.add("is-at");
  for (const id of pointed) document.getElementById(id)?.classList.add("is-pointed");
}

document.addEventListener("click", (event) => {
  const target = /** @type {Element} */ (event.target);
  const wanted = target.closest("[data-note-wanted]")?.getAttribute("data-note-wanted");
  const note = target.closest(".rows .target, .rows .take, .rows .cross, .rows [data-of]");
  const letter = target.closest("[data-points-at]");
  const place = target.closest("[data-remark-at]")?.getAttribute("data-remark-at");
  if (wanted) open(wanted);
  else if (note) open(note.getAttribute("data-of") ?? note.id);
  else if (letter) point(letter);
  else if (target.closest("[data-fault-after]")) step(1);
  else if (target.closest("[data-fault-before]")) step(-1);
  else if (target.closest("[data-close-card]")) close();
  else if (place) remarkAt(place);
});

/** @param {Element} letter */
function point(letter) {
  const isOn = letter.getAttribute("aria-pressed") === "true";
  for (const other of document.querySelectorAll("[data-points-at][aria-pressed]")) other.removeAttribute("aria-pressed");
  pointed = isOn ? [] : (letter.getAttribute("data-points-at") ?? "").split(" ").filter(Boolean);
  if (!isOn) letter.setAttribute("aria-pressed", "true");
  show();
  if (pointed.length > 0) document.getElementById(pointed[0])?.scrollIntoView({ block: "nearest" });
}

/** A remark about the note's place: the form knows bar and beat already.
 * @param {string} place */
function remarkAt(place) {
  const [bar, beat] = place.split(" ");
  const field = (/** @type {string} */ name) => /** @type {HTMLInputElement | null} */ (document.querySelector(`.remark-form [name=${name}]`));
  const [bars, beats, text] = ["bar", "beat", "text"].map(field);
  if (!bars || !beats || !text) return;
  bars.value = bar;
  beats.value = beat;
  text.focus();
}

/** A saved phrase, filled for this take, goes to where one writes. */
document.addEventListener("change", async (event) => {
  const chosen = /** @type {HTMLElement} */ (event.target).closest("[data-phrases]");
  if (!(chosen instanceof HTMLSelectElement) || !chosen.value) return;
  const field = (/** @type {string} */ name) => /** @type {HTMLInputElement | null} */ (document.querySelector(`.remark-form [name=${name}]`));
  const [bar, beat, text] = ["bar", "beat", "text"].map(field);
  const place = new URLSearchParams({ bar: bar?.value ?? "", beat: beat?.value ?? "" });
  const response = await ask(`${chosen.value}?${place}`);
  chosen.value = "";
  const problem = document.querySelector("[data-phrase-problem]");
  if (problem) problem.textContent = "";
  if (response.status === 422 && problem) {
    const missing = await response.json();
    problem.textContent = missing.problem;
    return field(missing.field)?.focus();
  }
  if (!response.ok || !text) return;
  text.value = [text.value.trim(), await response.text()].filter(Boolean).join(" ");
  text.focus();
});

/** The mark is drawn anew after an act here: every form of the page then acts on the state that it shows. */
function sameState() {
  const state = document.getElementById("mark")?.dataset.state;
  const fields = /** @type {NodeListOf<HTMLInputElement>} */ (document.querySelectorAll("input[name=state]"));
  for (const field of state ? fields : []) field.value = state ?? "";
}

document.addEventListener("note-wanted", (event) => open(targetId(/** @type {CustomEvent} */ (event).detail)));
document.body.addEventListener("htmx:afterSettle", () => {
  show();
  sameState();
});
document.addEventListener("page-put", () => {
  at = "";
  pointed = [];
});
