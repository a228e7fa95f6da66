/** Asking the server: what a tool does to the part, the server does; one at a time, in order. */
import { echoed, mend } from "./echo.js";
import { forget } from "./looking.js";

/** @returns {HTMLElement} */
export const work = () => /** @type {HTMLElement} */ (document.getElementById("work"));

/** @type {Promise<any>} */
let last = Promise.resolve();

let turns = 0;

/** Another number whenever something has been asked or answered since. */
export const turn = () => turns;

/** What is done is done to what the page shows, or not at all: somewhere else it may be another thing by now. */
export const pageNow = () => ({
  "Part-Shown": document.getElementById("pick")?.dataset.shown ?? "",
  "Page-Layout": document.getElementById("bench-page")?.dataset.layout ?? "",
});
document.body.addEventListener("htmx:configRequest", (event) => {
  Object.assign(/** @type {CustomEvent} */ (event).detail.headers, pageNow());
});

/** Which addresses were answered well when they were asked last. @type {Map<string, boolean>} */
const answers = new Map();
document.body.addEventListener("htmx:afterRequest", (event) => {
  const { xhr, pathInfo } = /** @type {CustomEvent} */ (event).detail;
  answers.set(pathInfo.requestPath, xhr.status >= 200 && xhr.status < 300);
});

/** The stored state that the page shows. */
export const stateNow = () => document.getElementById("bench-bar")?.dataset.state ?? "";

/** When everything that was asked so far is answered. */
export const quiet = () => last;

/** Ask when everything before is answered. @template T @param {() => Promise<T>} ask @returns {Promise<T>} */
export function inTurn(ask) {
  turns += 1;
  const asked = async () => {
    try {
      return await ask();
    } finally {
      turns += 1;
    }
  };
  last = last.then(asked, asked);
  return last;
}

/**
 * @param {string} act
 * @param {Record<string, string> | FormData} [values]
 * @param {{target?: string, swap?: string, echo?: Echo, isForPicked?: boolean}} [how] `echo` draws at once what the act will have
 *   done; `isForPicked`: it is for what is picked by then, and for nothing where nothing is
 * @returns {Promise<boolean>} was it done?
 */
export function post(act, values = {}, { target = "#pick", swap = "outerHTML", echo, isForPicked = false } = {}) {
  const isLook = values instanceof FormData && values.has("look");
  const done = echo && echoed(echo);
  return inTurn(async () => {
    const url = `${work().dataset.url}${act}/`;
    if (!isLook) forget();
    try {
      if (isForPicked && picked().size === 0) return false;
      await htmx.ajax("POST", url, { target, swap: `${swap} settle:0ms`, values });
      return answers.get(url) === true;
    } finally {
      if (done) mend(done);
    }
  });
}

/** @param {string} tool @param {Record<string, string>} [values] @param {Echo} [echo] */
export const use = (tool, values = {}, echo = undefined) => post(`do/${tool}`, values, { echo });

/** For what is picked. @param {string} tool @param {Record<string, string>} [values] @param {Echo} [echo] */
export const useOnPicked = (tool, values = {}, echo = undefined) => post(`do/${tool}`, values, { echo, isForPicked: true });

/** Notes that are picked, by number, as the server has them. */
export const picked = () => new Set((document.getElementById("pick")?.dataset.picked ?? "").split(" ").filter(Boolean));

/** @param {string} id of a field @returns {string} */
export function fieldValue(id) {
  return /** @type {HTMLInputElement | null} */ (document.getElementById(id))?.value ?? "";
}

/** Ticks of a new note, and of a step of the place and of what is dragged. */
export const newValue = () => Number(fieldValue("new-value")) || 120;
