/** The list of rules: the focus stays with the rule that was opened, set or left. */
const PLACE = "oido/choice";

const wordOf = (/** @type {string | null | undefined} */ choice) => document.getElementById(`choice-${choice}`);
const opened = () => /** @type {HTMLElement | null} */ (document.querySelector("[data-choice-open]"));
/** @type {string | undefined} the choice that was opened last */
let last;

document.body.addEventListener("htmx:afterSettle", (event) => {
  if (/** @type {CustomEvent} */ (event).detail.target?.id !== "rules" && !opened()) return;
  const form = opened();
  if (!form) return wordOf(last)?.focus({ preventScroll: true });
  last = form.dataset.choiceOpen;
  const field = form.querySelector(".field-wrong :is(input, select, textarea)") ?? form.querySelector("input:not([type=hidden]), select, textarea");
  /** @type {HTMLElement | null} */ (field)?.focus();
});

document.addEventListener("keydown", (event) => {
  if (event.key !== "Escape" || !opened()?.contains(/** @type {Node} */ (event.target))) return;
  /** @type {HTMLElement | null} */ (opened()?.querySelector("[data-leave]"))?.click();
});

// Setting a rule loads the page again: the focus returns to that rule.
document.body.addEventListener("htmx:beforeRequest", (event) => {
  const form = opened();
  const sent = /** @type {CustomEvent} */ (event).detail;
  if (form && sent.requestConfig?.verb === "post") sessionStorage.setItem(PLACE, form.dataset.choiceOpen ?? "");
  else sessionStorage.removeItem(PLACE);
});
wordOf(sessionStorage.getItem(PLACE))?.focus();
sessionStorage.removeItem(PLACE);
