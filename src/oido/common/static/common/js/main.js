/** Small manners of every page. */

/**
 * Is this key press somebody typing, or working a control of the page?
 * @param {KeyboardEvent} event
 */
export function isForControl(event) {
  const target = /** @type {HTMLElement} */ (event.target);
  if (event.ctrlKey || event.altKey || event.metaKey) return true;
  if (target.closest("textarea, select, [contenteditable], summary, a")) return true;
  const input = target.closest("input");
  if (input) return !["radio", "checkbox"].includes(input.type) || event.code === "Space";
  return target.closest("button") !== null && ["Space", "Enter"].includes(event.code);
}

/**
 * Is this key press somebody typing? Single letters mean nothing to buttons and links.
 * @param {KeyboardEvent} event
 */
export function isTyping(event) {
  const target = /** @type {HTMLElement} */ (event.target);
  if (event.ctrlKey || event.altKey || event.metaKey) return true;
  if (target.closest("textarea, select, [contenteditable]")) return true;
  const input = target.closest("input");
  return input !== null && !["radio", "checkbox"].includes(input.type);
}

/**
 * Once the document is whole, and with it the forms that htmx sends: all of the page can be used only then.
 * @param {() => void} work
 */
export function whenWhole(work) {
  if (document.readyState === "complete") work();
  else document.addEventListener("DOMContentLoaded", work, { once: true });
}

/**
 * Data that the server wrote into the page.
 * @param {string} id
 */
export function pageData(id) {
  const element = document.getElementById(id);
  return element ? JSON.parse(element.textContent ?? "null") : null;
}
