/** What a tool would do, drawn on the page and not done: the page as it is waits here until the tool is used or left. */

import { apart } from "./echo.js";

/** @type {string | null} */
let kept = null;

const page = () => /** @type {HTMLElement} */ (document.getElementById("bench-page"));

export const isLooking = () => kept !== null;

/** Before rows are drawn as they would be. */
export function look() {
  apart(() => (kept ??= page().innerHTML));
  page().dataset.looks = "yes";
}

/** The page as it is, again. @returns {boolean} was it another one? */
export function forget() {
  if (kept === null) return false;
  const was = kept;
  kept = null;
  apart(() => (page().innerHTML = was));
  delete page().dataset.looks;
  document.dispatchEvent(new CustomEvent("page-as-it-is"));
  return true;
}
