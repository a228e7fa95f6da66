/**
 * The pointer on the Bench: notes clicked, moved and lengthened, boxes that pick, strengths drawn in the Weight
 * strip. All is drawn at once and confirmed by the server.
 */
import { numberOf } from "../../common/js/note_place.js";
import { newValue, picked, use, work } from "./ask.js";
import { STAFF_STEP_PX, come, moved, stretched } from "./echo.js";
import { music, noteAt, pickedNotes, placeIn, rowAt, setPlace, tickAt, ticksPerPx } from "./page.js";
import { sing } from "./sing.js";

/** How long a finger rests before what it draws is a box; until then it scrolls. */
const HELD_MS = 350;
const TWICE_MS = 450;
const FAR_PX = 4;
const END_PX = 7;
const WEIGHT_HEIGHT = 30;

/** @typedef {{move(event: PointerEvent): void, end(event: PointerEvent): void}} Drag */

/** @param {SVGSVGElement} row @param {SVGGraphicsElement} note @param {PointerEvent} from @returns {Drag} */
function noteDrag(row, note, from) {
  const start = placeIn(row, from);
  const box = note.getBBox();
  const isEnd = note.tagName === "rect" && start.x > box.x + box.width - Math.min(END_PX, box.width / 2);
  const grid = newValue();
  const perPx = ticksPerPx(row);
  const number = numberOf(note);
  const own = () => (picked().has(number) ? [...music().querySelectorAll(".target.is-picked")] : [...music().querySelectorAll(`[id="${note.id}"]`)]);
  let ticks = 0;
  let steps = 0;
  let undraw = () => {};
  const echo = () => (isEnd ? stretched(own, ticks / perPx) : moved(own, ticks / perPx, steps));
  return {
    move(event) {
      const now = placeIn(row, event);
      ticks = Math.round(((now.x - start.x) * perPx) / grid) * grid;
      steps = isEnd ? 0 : Math.round((start.y - now.y) / STAFF_STEP_PX);
      undraw();
      undraw = echo()();
    },
    end() {
      undraw();
      if (!ticks && !steps) return;
      const values = isEnd ? { longer: String(ticks) } : { ticks: String(ticks), steps: String(steps) };
      use("drag", { note: number, ticks: "0", steps: "0", longer: "0", ...values }, echo());
    },
  };
}

/** @param {PointerEvent} from @returns {Drag} */
function boxDrag(from) {
  const box = document.createElement("div");
  box.className = "pick-box";
  document.body.append(box);
  const edges = { left: 0, top: 0, right: 0, bottom: 0 };
  return {
    move(event) {
      edges.left = Math.min(from.clientX, event.clientX);
      edges.right = Math.max(from.clientX, event.clientX);
      edges.top = Math.min(from.clientY, event.clientY);
      edges.bottom = Math.max(from.clientY, event.clientY);
      box.style.left = `${edges.left}px`;
      box.style.top = `${edges.top}px`;
      box.style.width = `${edges.right - edges.left}px`;
      box.style.height = `${edges.bottom - edges.top}px`;
    },
    end(event) {
      box.remove();
      const inside = [...music().querySelectorAll(".target")].filter((note) => {
        const place = note.getBoundingClientRect();
        return place.left < edges.right && place.right > edges.left && place.top < edges.bottom && place.bottom > edges.top;
      });
      const notes = inside.map((note) => numberOf(note)).join(" ");
      if (notes) use("touch", { notes, ...(event.shiftKey ? { more: "on" } : {}) });
      else use("touch", { way: "none" });
    },
  };
}

/**
 * Strengths drawn over the bars that the pointer passes; with Shift in a straight line from where it began.
 * @param {SVGSVGElement} row @param {PointerEvent} from @returns {Drag}
 */
function weightDrag(row, from) {
  const bars = /** @type {SVGPathElement[]} */ ([...row.querySelectorAll("[data-weight]")]);
  const bottom = Math.max(...bars.map((bar) => bar.getBBox().y + bar.getBBox().height));
  const at = bars.map((bar) => bar.getBBox().x);
  /** @type {Map<number, number>} */
  const drawn = new Map();
  const weightAt = (/** @type {number} */ y) =>
    Math.max(1, Math.min(127, Math.round(((bottom - y) / WEIGHT_HEIGHT) * 127)));
  const start = placeIn(row, from);
  let before = start;

  /** @param {DOMPoint} a @param {DOMPoint} b */
  function draw(a, b) {
    const [left, right] = a.x <= b.x ? [a, b] : [b, a];
    at.forEach((x, k) => {
      if (x < left.x - 5 || x > right.x + 5) return;
      const share = right.x > left.x ? Math.min(1, Math.max(0, (x - left.x) / (right.x - left.x))) : 1;
      const y = left.y + share * (right.y - left.y);
      drawn.set(k, weightAt(y));
      bars[k].setAttribute("d", `M${x} ${bottom}V${bottom - (weightAt(y) / 127) * WEIGHT_HEIGHT}`);
    });
  }
  draw(start, start);
  return {
    move(event) {
      const now = placeIn(row, event);
      draw(event.shiftKey ? start : before, now);
      before = now;
    },
    end() {
      const first = Number(row.closest("[data-first]")?.getAttribute("data-first"));
      const weights = [...drawn].map(([k, weight]) => `${first + Number(bars[k].dataset.weight)}:${weight}`).join(" ");
      if (weights) use("weigh", { weights });
    },
  };
}

/** Whether a pointer is over the Weight strip of a row.
 * @param {SVGSVGElement} row @param {PointerEvent} event */
function isOnWeights(row, event) {
  const strip = row.querySelector(".weight")?.getBoundingClientRect();
  return strip !== undefined && event.clientY >= strip.top - 6 && event.clientY <= strip.bottom + 6;
}

/** @param {PointerEvent} event */
function begin(event) {
  const target = /** @type {Element} */ (event.target);
  if (event.button !== 0 || !music().contains(target)) return;
  const row = /** @type {SVGSVGElement | null} */ (target.closest("svg"));
  const note = noteAt(event);
  if (barHandleAt(event)) return follow(NO_DRAG, event, false, clicked);
  if (event.pointerType === "touch" && !(note && picked().has(numberOf(note))) && !(row && isOnWeights(row, event))) return hold(event);
  if (!row) return follow(boxDrag(event), event, false);
  if (isOnWeights(row, event)) {
    event.preventDefault();
    return follow(weightDrag(row, event), event, true);
  }
  follow(note ? noteDrag(row, note, event) : boxDrag(event), event, false, clicked);
}

/** @type {Drag} */
const NO_DRAG = { move() {}, end() {} };

/** @param {MouseEvent} event */
const barHandleAt = (event) => document.elementFromPoint(event.clientX, event.clientY)?.closest("[data-pick-bar]");

/**
 * What stands where the pointer was let go is clicked. It is not the browser's own click: of that nothing comes where the row
 * has been drawn anew since the pointer went down.
 * @param {PointerEvent} event
 */
function clicked(event) {
  const bar = barHandleAt(event)?.getAttribute("data-pick-bar");
  const note = noteAt(event);
  if (bar) {
    music().focus({ preventScroll: true });
    use("touch", { bar, ...(event.shiftKey ? { more: "on" } : {}) });
  } else if (note) pick(note, event.shiftKey);
  else here(event);
}

/** @param {SVGGraphicsElement} note @param {boolean} isMore */
function pick(note, isMore) {
  music().focus({ preventScroll: true });
  if (!isMore) for (const other of pickedNotes()) if (other !== note) other.classList.remove("is-picked");
  note.classList.toggle("is-picked");
  sing(note);
  use("touch", { note: numberOf(note), ...(isMore ? { more: "on" } : {}) });
}

/** Where a free place was clicked last, and when: rows may be drawn anew between two clicks. */
let before = { x: 0, y: 0, ms: -TWICE_MS };

/** A click on a free place says where one writes next; twice, it puts a note there. @param {PointerEvent} event */
function here(event) {
  const row = rowAt(event);
  if (!row) return;
  const { x, y } = placeIn(row, event);
  setPlace(tickAt(row, x));
  music().focus({ preventScroll: true });
  const isTwice = event.timeStamp - before.ms < TWICE_MS && Math.hypot(event.clientX - before.x, event.clientY - before.y) <= FAR_PX;
  before = { x: event.clientX, y: event.clientY, ms: isTwice ? -TWICE_MS : event.timeStamp };
  if (!isTwice) return;
  const number = row.dataset.row ?? "0";
  use("put", { row: number, x: String(x), y: String(y), value: String(newValue()) }, come(() => document.querySelector(`#row-${number} svg`), x, y));
}

/** A finger scrolls, taps, or, once it has rested, draws a box. @param {PointerEvent} from */
function hold(from) {
  const stop = new AbortController();
  const { signal } = stop;
  const isStill = (/** @type {PointerEvent} */ event) => Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) <= FAR_PX;
  const timer = window.setTimeout(() => {
    stop.abort();
    document.addEventListener("touchmove", keep, { passive: false });
    document.addEventListener("pointerup", () => document.removeEventListener("touchmove", keep), { once: true });
    work().classList.add("is-dragging");
    follow(boxDrag(from), from, true);
  }, HELD_MS);
  const off = () => {
    window.clearTimeout(timer);
    stop.abort();
  };
  document.addEventListener("pointermove", (event) => isStill(event) || off(), { signal });
  document.addEventListener("pointercancel", off, { signal });
  document.addEventListener("pointerup", (event) => {
    off();
    clicked(event);
  }, { signal });
}

/** The page does not scroll under a box. @param {Event} event */
const keep = (event) => event.preventDefault();

/** Follow the pointer until it is let go. What has not moved far is a click.
 * @param {Drag} drag @param {PointerEvent} from @param {boolean} isAtOnce @param {(event: PointerEvent) => void} [clicked] */
function follow(drag, from, isAtOnce, clicked) {
  let isDrag = isAtOnce;
  const move = (/** @type {PointerEvent} */ event) => {
    isDrag ||= Math.hypot(event.clientX - from.clientX, event.clientY - from.clientY) > FAR_PX;
    if (!isDrag) return;
    work().classList.add("is-dragging");
    drag.move(event);
  };
  const end = (/** @type {PointerEvent} */ event) => {
    document.removeEventListener("pointermove", move);
    document.removeEventListener("pointerup", end);
    document.removeEventListener("pointercancel", end);
    work().classList.remove("is-dragging");
    if (!isDrag) {
      document.querySelector(".pick-box")?.remove();
      if (event.type === "pointerup") clicked?.(event);
      return;
    }
    // The click that follows a drag at once is part of it.
    const swallow = (/** @type {MouseEvent} */ click) => click.stopImmediatePropagation();
    window.addEventListener("click", swallow, { capture: true });
    setTimeout(() => window.removeEventListener("click", swallow, { capture: true }), 0);
    music().focus({ preventScroll: true });
    drag.end(event);
  };
  document.addEventListener("pointermove", move);
  document.addEventListener("pointerup", end);
  document.addEventListener("pointercancel", end);
}

export function startPointer() {
  document.addEventListener("pointerdown", begin);
}
