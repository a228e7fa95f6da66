/** A tool's leaf beside the music: opened from the strip, shown on the page before it is used, put away with Escape. */
import { ask } from "../../common/js/signed_out.js";
import { post, quiet, work } from "./ask.js";
import { isBareInView } from "./late.js";
import { forget, isLooking, look } from "./looking.js";
import { music, pickedNotes, showPicked } from "./page.js";

const SOON_MS = 180;
/** Tools of which there is nothing to be seen before. */
const NOT_SHOWN = ["pick", "note"];

export const leaf = () => /** @type {HTMLElement} */ (document.getElementById("leaf"));
const form = () => /** @type {HTMLFormElement | null} */ (leaf().querySelector("form"));
let timer = 0;

/** @param {string} tool */
export async function openLeaf(tool) {
  await quiet();
  const response = await ask(`${work().dataset.url}do/${tool}/`, { headers: { "HX-Request": "true" } }).catch(() => null);
  if (!response?.ok) return;
  leave();
  leaf().outerHTML = await response.text();
  for (const word of document.querySelectorAll("[data-strip] [data-tool]")) word.toggleAttribute("data-is-open", word.getAttribute("data-tool") === tool);
  besideThePicked();
  /** @type {HTMLElement | null} */ (leaf().querySelector(".field input:not([type=hidden]), .field select, .field textarea, button.btn"))?.focus({ preventScroll: true });
  lookSoon(0);
}

/** @returns {boolean} was one open? */
export function closeLeaf() {
  if (leaf().hidden) return false;
  leave();
  leaf().hidden = true;
  leaf().replaceChildren();
  for (const word of document.querySelectorAll("[data-is-open]")) word.removeAttribute("data-is-open");
  music().focus({ preventScroll: true });
  return true;
}

/** The page as it is, if a leaf had it drawn otherwise. */
function leave() {
  window.clearTimeout(timer);
  if (forget()) showPicked();
}

/** Something else is done with the part: what the tool would do is neither drawn nor said any more. */
export function stopShowing() {
  leave();
  document.getElementById("leaf-news")?.replaceChildren();
}

/** At the height of what is picked, as a remark stands in the margin; all of it in view. */
export function besideThePicked() {
  const margin = leaf().parentElement;
  if (!margin || leaf().hidden || getComputedStyle(margin).position !== "sticky") return;
  const row = pickedNotes()[0]?.closest("svg") ?? null;
  const frame = margin.getBoundingClientRect();
  const room = frame.height - leaf().offsetHeight;
  const wanted = row ? row.getBoundingClientRect().top - frame.top : 0;
  leaf().style.marginTop = `${Math.max(0, Math.min(wanted, room))}px`;
}

/** @param {number} [ms] */
export function lookSoon(ms = SOON_MS) {
  window.clearTimeout(timer);
  const tool = leaf().dataset.tool ?? "";
  if (leaf().hidden || NOT_SHOWN.includes(tool)) return;
  timer = window.setTimeout(() => shown(`do/${tool}`, form(), "#leaf-news"), ms);
}

/** What a form would do, drawn on the page and said in its news. What is filled in wrongly says so when it is used.
 * @param {string} act @param {HTMLFormElement | null} form @param {string} news */
export async function shown(act, form, news) {
  if (!form) return;
  const values = new FormData(form);
  values.set("look", "1");
  await post(act, values, { target: news, swap: "innerHTML" });
}

/** Is a request asked that only shows what would be done? It is by where its answer goes. @param {Element | null} target */
export const isLook = (target) => target !== null && ["leaf-news", "text-news"].includes(target.id);

/** Rows that come as they would be are told from those that are so. */
document.body.addEventListener("htmx:beforeSwap", (event) => {
  const { target, xhr } = /** @type {CustomEvent} */ (event).detail;
  if (!isLook(target)) return;
  forget();
  if (xhr.status === 200) look();
});

document.addEventListener("submit", (event) => {
  const sent = /** @type {HTMLFormElement} */ (event.target);
  if (!sent.matches("[data-leaf]")) return;
  event.preventDefault();
  window.clearTimeout(timer);
  isUsed = true;
  post(`do/${leaf().dataset.tool}`, new FormData(sent));
});
document.addEventListener("input", (event) => {
  if (leaf().contains(/** @type {Node} */ (event.target))) lookSoon();
});
document.addEventListener("click", (event) => {
  const target = /** @type {Element} */ (event.target);
  if (target.closest("[data-close-leaf]")) closeLeaf();
  const tool = target.closest("[data-strip] [data-tool]")?.getAttribute("data-tool");
  if (!tool || /** @type {MouseEvent} */ (event).ctrlKey) return;
  event.preventDefault();
  if (leaf().dataset.tool === tool && !leaf().hidden) closeLeaf();
  else openLeaf(tool);
});
document.addEventListener("keydown", (event) => {
  if (event.key !== "Escape" || !leaf().contains(document.activeElement)) return;
  // Nor does the page take it for its own: what is picked stays.
  event.stopImmediatePropagation();
  closeLeaf();
});
window.addEventListener("scroll", besideThePicked, { passive: true });
window.addEventListener("scroll", () => isLooking() && isBareInView() && lookSoon(), { passive: true });
window.addEventListener("resize", besideThePicked);

/** What was worked on when the page was drawn as it would be. */
let had = "";
/** Has the tool just been used? What it would do a second time is not shown before it is asked for. */
let isUsed = false;
document.body.addEventListener("htmx:afterSettle", () => {
  const state = document.getElementById("bench-bar")?.dataset.playingState ?? "";
  const now = `${state} ${document.getElementById("pick")?.dataset.picked ?? ""}`;
  besideThePicked();
  if (isLooking() || leaf().hidden) return;
  if (isUsed) {
    isUsed = false;
    had = now;
    return;
  }
  // Another note has other figures; another selection is worked on otherwise.
  if (now !== had && leaf().dataset.tool === "note" && !leaf().contains(document.activeElement)) openLeaf("note").then(() => music().focus({ preventScroll: true }));
  else if (now !== had) lookSoon();
  had = now;
});
