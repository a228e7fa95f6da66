/** The ladder on the music: bars are drawn over or gone to by keys, a note says which hand or lane; the server keeps the draft. */
import { numberOf } from "../../common/js/note_place.js";
import { pageData } from "../../common/js/main.js";
import { describeBars } from "../../common/js/texts.js";

/** @type {string[]} of each note its hand or lane */
const voices = pageData("voices") ?? [];
const music = /** @type {HTMLElement} */ (document.querySelector("[data-ladder-music]"));
const desk = () => /** @type {HTMLFormElement} */ (document.getElementById("ladder-desk"));
const field = (/** @type {string} */ name) => /** @type {HTMLInputElement | null} */ (desk().elements.namedItem(name));
const bars = () => /** @type {SVGGraphicsElement[]} */ ([...music.querySelectorAll("[data-bar]")]);
const barNumber = (/** @type {Element | null} */ bar) => Number(bar?.getAttribute("data-bar") ?? 0);

/** The bars that are drawn over: where it began, and where it is now. @type {[number, number] | null} */
let span = null;

/** @param {number} first @param {number} last @param {Set<number> | null} notes that are played there; null: all */
function show(first, last, notes) {
  for (const bar of bars()) bar.classList.toggle("is-chosen", barNumber(bar) >= first && barNumber(bar) <= last);
  for (const note of music.querySelectorAll(".target")) note.classList.toggle("is-apart", notes !== null && !notes.has(Number(numberOf(note))));
}

/** What is drawn over now, else the rung that is open or looked at. @param {HTMLElement | null} [looked] */
function showRung(looked = null) {
  const rung = looked ?? /** @type {HTMLElement | null} */ (desk().querySelector("[data-is-open]"));
  if (span) return show(Math.min(...span), Math.max(...span), null);
  if (!rung) return show(1, 0, null);
  const [first, last] = (rung.dataset.rungBars ?? "0 0").split(" ").map(Number);
  show(first, last, new Set((rung.dataset.rungNotes ?? "").split(" ").filter(Boolean).map(Number)));
}

/** The bars are those of the rung that is open, or of a new one. */
function take() {
  if (!span) return;
  const [first, last] = [Math.min(...span), Math.max(...span)].map(String);
  const isOpen = field("rung-first_bar") !== null;
  const [from, to] = isOpen ? [field("rung-first_bar"), field("rung-last_bar")] : [field("new_first"), field("new_last")];
  if (!from || !to) return;
  [from.value, to.value] = [first, last];
  span = null;
  if (isOpen) send(`open-${field("open")?.value}`);
  else send("new");
}

/** @param {string} act */
function send(act) {
  const button = document.createElement("button");
  [button.name, button.value, button.hidden] = ["act", act, true];
  desk().append(button);
  // What was clicked is what htmx sends.
  button.click();
}

/** A note stands for its hand or lane in the rung that is open. @param {Element} note */
function pick(note) {
  const voice = voices[Number(numberOf(note))];
  const wanted = [...desk().elements].find((one) => one instanceof HTMLInputElement && /rung-(hand|lanes)/.test(one.name) && one.value === voice);
  if (wanted instanceof HTMLInputElement) {
    wanted.checked = wanted.type === "radio" ? true : !wanted.checked;
    send(`open-${field("open")?.value}`);
  }
}

/** The bar under the pointer, whatever stands in it; 0 beside the music. @param {PointerEvent} event */
const over = ({ clientX, clientY }) => barNumber(document.elementsFromPoint(clientX, clientY).find((one) => one.matches("[data-bar]")) ?? null);

music.addEventListener("pointerdown", (event) => {
  const bar = over(event);
  if (!bar || event.button !== 0) return;
  span = [bar, bar];
  showRung();
  const move = (/** @type {PointerEvent} */ moved) => {
    const now = over(moved);
    if (!span || !now) return;
    span = [span[0], now];
    showRung();
  };
  const done = (/** @type {PointerEvent} */ ended) => {
    stop();
    const note = document.elementsFromPoint(ended.clientX, ended.clientY).find((one) => one.matches(".target"));
    if (note && span?.[0] === span?.[1] && field("open")) {
      span = null;
      pick(note);
      showRung();
    } else take();
  };
  const cancel = () => {
    stop();
    span = null;
    showRung();
  };
  const stop = () => {
    document.removeEventListener("pointermove", move);
    document.removeEventListener("pointerup", done);
    document.removeEventListener("pointercancel", cancel);
  };
  document.addEventListener("pointermove", move);
  document.addEventListener("pointerup", done);
  document.addEventListener("pointercancel", cancel);
});

music.addEventListener("keydown", (event) => {
  const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
  const last = bars().length;
  if (step) {
    const [from, to] = span ?? [0, step > 0 ? 0 : last + 1];
    const now = Math.min(last, Math.max(1, to + step));
    span = event.shiftKey && from ? [from, now] : [now, now];
  } else if (event.key === "Enter" && span) take();
  else if (event.key === "Escape") span = null;
  else return;
  event.preventDefault();
  showRung();
  const spanText = /** @type {HTMLElement} */ (music.querySelector("[data-span-said]"));
  spanText.textContent = span ? describeBars(Math.min(...span), Math.max(...span)) : "";
});

for (const kind of ["mouseover", "focusin"]) {
  document.addEventListener(kind, (event) => {
    const rung = /** @type {HTMLElement | null} */ (/** @type {Element} */ (event.target).closest?.("[data-rung-bars]"));
    if (rung || !music.contains(/** @type {Node} */ (event.target))) showRung(rung);
  });
}

/** @type {string | undefined} where the focus was */
let was;
document.body.addEventListener("htmx:beforeRequest", () => (was = document.activeElement?.id));
document.body.addEventListener("htmx:afterSettle", () => {
  showRung();
  const opened = /** @type {HTMLElement | null} */ (desk().querySelector("[data-is-open]"));
  const wrong = opened?.querySelector(".field-wrong input");
  const where = wrong ?? (was ? document.getElementById(was) : null) ?? opened?.querySelector("input");
  // What was done from a menu leaves it closed: the focus stays on the menu.
  const place = where?.closest("details.menu:not([open])")?.querySelector("summary") ?? where;
  if (document.activeElement === document.body) /** @type {HTMLElement | null} */ (place)?.focus({ preventScroll: true });
  opened?.scrollIntoView({ block: "nearest" });
});

let isLeaving = false;
document.addEventListener("submit", (event) => {
  isLeaving = /** @type {HTMLButtonElement | null} */ (/** @type {SubmitEvent} */ (event).submitter)?.value === "save";
});
window.addEventListener("beforeunload", (event) => {
  if (desk().hasAttribute("data-unsaved") && !isLeaving) event.preventDefault();
});
showRung();
