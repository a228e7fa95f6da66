/**
 * Single keys: whatever on the page says data-key is clicked, or focused, by that key. “?” lists them, and
 * there they can be switched off.
 */
import { isTyping } from "./main.js";

const KEPT = "oido-single-keys";
const isOn = () => localStorage.getItem(KEPT) !== "off";
const dialog = /** @type {HTMLDialogElement | null} */ (document.getElementById("keys"));

/** @param {string} key @returns {HTMLElement | undefined} */
const keyed = (key) =>
  [.../** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-key]"))].find(
    (element) => element.dataset.key === key && element.checkVisibility() && !element.hasAttribute("disabled"),
  );

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && !dialog?.open) {
    // Out of what is being written, to where single keys mean something again; what is written stays.
    if (isTyping(event) && document.activeElement instanceof HTMLElement) return document.activeElement.blur();
    keyed("Escape")?.click();
  }
  if (event.repeat || dialog?.open || isTyping(event)) return;
  if (event.key === "?") {
    event.preventDefault();
    list();
    return;
  }
  const element = isOn() && event.key.length === 1 ? keyed(event.key.toLowerCase()) : undefined;
  if (!element) return;
  event.preventDefault();
  if (element.matches("input, textarea, select")) element.focus();
  else element.click();
  // What is unfolded is to be written in.
  if (element.matches("summary")) setTimeout(() => element.closest("details[open]")?.querySelector("textarea")?.focus());
});

document.addEventListener("click", (event) => {
  if (/** @type {Element} */ (event.target).closest("[data-list-keys]")) list();
});

function list() {
  const body = dialog?.querySelector("tbody");
  if (!dialog || !body) return;
  const seen = new Map([[pgettext("key", "Space"), gettext("sound on and off")]]);
  for (const element of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll("[data-key]"))) {
    const name = element.dataset.keyName ?? element.getAttribute("aria-label") ?? element.textContent?.trim() ?? "";
    if (element.checkVisibility()) seen.set(element.dataset.key ?? "", name);
  }
  seen.set("?", gettext("this list"));
  body.replaceChildren(
    ...[...seen].map(([key, name]) => {
      const [row, head, cell, cap] = ["tr", "th", "td", "kbd"].map((tag) => document.createElement(tag));
      cap.textContent = key;
      cell.textContent = name;
      head.append(cap);
      row.append(head, cell);
      return row;
    }),
  );
  dialog.showModal();
}

const switched = /** @type {HTMLInputElement | null | undefined} */ (dialog?.querySelector("[data-single-keys]"));
if (switched) {
  switched.checked = isOn();
  switched.addEventListener("change", () => localStorage.setItem(KEPT, switched.checked ? "on" : "off"));
}
