/**
 * What an act will have done, drawn before the server answers, and mended after: an echo draws on what is there and says how to
 * take that away again. Acts that wait are drawn again over each answer, so that nothing jumps back in between.
 */

/** @type {{echo: Echo, undraw: () => void}[]} in the order in which they were done */
let waiting = [];

/** Draw at once. @param {Echo} echo */
export function echoed(echo) {
  const one = { echo, undraw: echo() };
  waiting.push(one);
  return one;
}

/** Do something to the page as it is without what only echoes. @param {() => void} act */
export function apart(act) {
  for (const one of [...waiting].reverse()) one.undraw();
  act();
  for (const one of waiting) one.undraw = one.echo();
}

/** The server has answered one: the rest is drawn over what it sent. @param {{echo: Echo, undraw: () => void}} done */
export function mend(done) {
  apart(() => (waiting = waiting.filter((one) => one !== done)));
}

/** @param {number} x in px of the drawing @param {number} steps up, in steps of the staff @param {() => Iterable<Element>} notes @returns {Echo} */
export const moved = (notes, x, steps) => () => {
  const own = /** @type {SVGElement[]} */ ([...notes()]);
  const were = own.map((note) => note.style.translate);
  own.forEach((note, k) => {
    const [oldX, oldY] = were[k].split(" ").map((each) => parseFloat(each) || 0);
    note.style.translate = `${oldX + x}px ${(oldY || 0) - steps * STAFF_STEP_PX}px`;
  });
  return () => own.forEach((note, k) => (note.style.translate = were[k]));
};

/** @param {() => Iterable<Element>} notes @param {number} px @returns {Echo} */
export const stretched = (notes, px) => () => {
  const own = [...notes()].filter((note) => note.tagName === "rect");
  const were = own.map((note) => note.getAttribute("width") ?? "");
  own.forEach((note, k) => note.setAttribute("width", String(Math.max(MIN_WIDTH, Number(were[k]) + px))));
  return () => own.forEach((note, k) => note.setAttribute("width", were[k]));
};

/** @param {() => Iterable<Element>} notes @returns {Echo} */
export const gone = (notes) => () => {
  const own = [...notes()];
  for (const note of own) note.classList.add("is-gone");
  return () => own.forEach((note) => note.classList.remove("is-gone"));
};

/** A note where there is none yet. @param {() => Element | null} row @param {number} x @param {number} y @returns {Echo} */
export const come = (row, x, y) => () => {
  const dot = document.createElementNS("http://www.w3.org/2000/svg", "ellipse");
  for (const [name, value] of Object.entries({ cx: x, cy: y, rx: 6, ry: 4, class: "echo" })) dot.setAttribute(name, String(value));
  row()?.append(dot);
  return () => dot.remove();
};

export const STAFF_STEP_PX = 4.5;
const MIN_WIDTH = 3;
