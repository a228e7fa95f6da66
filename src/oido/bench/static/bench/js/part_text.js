/** The part as text beside the page: drawn on the page while it is written, and written anew when the page has changed. */
import { ask } from "../../common/js/signed_out.js";
import { post, quiet, stateNow, work } from "./ask.js";
import { forget } from "./looking.js";
import { barPlaces, music, pickedNotes, setPlace, showPicked } from "./page.js";
import { shown } from "./leaf.js";
import { barOf, rewritten } from "./text_lines.js";

const SOON_MS = 450;
/** So long nothing is done before the text is asked for: written out anew after each key, it would make the next one wait. */
const QUIET_MS = 600;
const section = () => document.getElementById("tool-text");
const form = () => /** @type {HTMLFormElement | null} */ (section()?.querySelector("form") ?? null);
const area = () => /** @type {HTMLTextAreaElement | null} */ (section()?.querySelector("textarea") ?? null);
let timer = 0;
let state = "";
/** Runs while the text is not that of the page. */
let renewal = 0;

const isOther = () => area()?.value !== area()?.defaultValue;

/** @returns {Promise<string | null>} the text as the part is now */
async function textNow() {
  state = stateNow();
  const response = await ask(`${work().dataset.url}do/text/`, { headers: { "HX-Request": "true" } }).catch(() => null);
  if (!response?.ok) return null;
  return new DOMParser().parseFromString(await response.text(), "text/html").querySelector("textarea")?.value ?? "";
}

/** @param {string} value */
function setText(value) {
  const own = area();
  if (!own) return;
  const at = own.selectionStart;
  own.value = value;
  own.setSelectionRange(at, at);
}

/** The text as the part is now; what somebody is writing stays. */
async function renew() {
  window.clearTimeout(renewal);
  renewal = 0;
  if (!area() || isOther()) return;
  await quiet();
  const text = await textNow();
  const own = area();
  if (!own || text === null || isOther()) return;
  own.defaultValue = text;
  setText(text);
  showBar();
}

/** The part was changed somewhere else: what is written stays, and is written into what there is now. */
async function rewrite() {
  const text = await textNow();
  const own = area();
  if (!own || text === null) return;
  setText(rewritten(own.value, own.defaultValue, text));
  own.defaultValue = text;
}

async function write() {
  const own = area();
  const sent = form();
  if (!own || !sent || !isOther()) return;
  window.clearTimeout(timer);
  const [hadFocus, at, was] = [document.activeElement === own, own.selectionStart, own.defaultValue];
  const isDone = await post("do/text", new FormData(sent));
  const now = area();
  if (!now) return;
  const written = now.value;
  now.defaultValue = isDone ? written : was;
  now.value = written;
  section()?.classList.toggle("is-other", isOther());
  if (hadFocus) {
    now.focus({ preventScroll: true });
    now.setSelectionRange(at, at);
  }
  if (isDone) await renew();
  else if (document.querySelector("#bench-problem:not(:empty)")) await rewrite();
}

/** Which bar of the page the line is of. */
function follow() {
  const own = area();
  if (!own) return;
  const before = own.value.slice(0, own.selectionStart).split("\n").reverse();
  const number = Number(before.map(barOf).find(Boolean) ?? 1);
  const bar = barPlaces().find((each) => each.number === number);
  if (!bar) return;
  setPlace(bar.start);
  bar.element.closest(".bench-row")?.scrollIntoView({ block: "nearest" });
}

/** The line of the bar in which the first picked note begins is in view. */
function showBar() {
  const own = area();
  const note = pickedNotes()[0];
  const row = note?.closest("svg");
  if (!own || !row || document.activeElement === own) return;
  const x = note.getBBox().x;
  const bar = barPlaces(row).findLast((each) => each.x <= x + 1);
  const line = own.value.split("\n").findIndex((each) => barOf(each) === String(bar?.number));
  if (line >= 0) own.scrollTop = line * parseFloat(getComputedStyle(own).lineHeight) - own.clientHeight / 3;
}

/** Was it wanted before it was there? */
let isWanted = false;

export function toText() {
  isWanted = !area();
  area()?.focus();
}

document.addEventListener("input", (event) => {
  if (event.target !== area()) return;
  section()?.classList.toggle("is-other", isOther());
  window.clearTimeout(timer);
  timer = window.setTimeout(() => (isOther() ? shown("do/text", form(), "#text-news") : forget()), SOON_MS);
});
document.addEventListener("submit", (event) => {
  if (event.target !== form()) return;
  event.preventDefault();
  write();
});
document.addEventListener("change", (event) => event.target === area() && write());
document.addEventListener("keydown", (event) => {
  const own = area();
  if (!own || document.activeElement !== own) return;
  if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) {
    event.preventDefault();
    write();
  } else if (event.key === "Escape") {
    event.stopPropagation();
    window.clearTimeout(timer);
    own.value = own.defaultValue;
    if (forget()) showPicked();
    music().focus({ preventScroll: true });
  }
});
document.addEventListener("keyup", (event) => {
  if (event.target === area() && ["ArrowUp", "ArrowDown", "PageUp", "PageDown"].includes(event.key)) follow();
});
document.addEventListener("click", (event) => event.target === area() && follow());
document.body.addEventListener("htmx:afterSettle", () => {
  if (isWanted && area()) toText();
  showBar();
  if (stateNow() === state || !area()) return;
  state = stateNow();
  window.clearTimeout(renewal);
  renewal = window.setTimeout(renew, document.activeElement === area() ? 0 : QUIET_MS);
});
document.addEventListener("focusin", (event) => event.target === area() && renewal && renew());
state = stateNow();
