/** The strip of tools: one stop of the Tab key, gone through with arrows and letters; and sheets that lie low over the page. */
const strip = () => /** @type {HTMLElement} */ (document.querySelector("[data-strip]"));
const words = () => /** @type {HTMLElement[]} */ ([...strip().querySelectorAll("a, button")]);

/** @param {HTMLElement | undefined} word */
function reach(word) {
  if (!word) return;
  for (const each of words()) each.tabIndex = each === word ? 0 : -1;
  word.focus();
}

export function toStrip() {
  reach(words().find((word) => word.tabIndex === 0) ?? words()[0]);
}

/** @param {string | null} id of the one that is to lie there; none closes all */
export function showSheet(id) {
  for (const sheet of /** @type {NodeListOf<HTMLElement>} */ (document.querySelectorAll(".low-sheet"))) {
    const isOpen = sheet.id === id && sheet.hidden;
    sheet.hidden = !isOpen;
    document.querySelector(`[data-sheet="${sheet.id}"]`)?.setAttribute("aria-expanded", String(isOpen));
    sheet.dispatchEvent(new Event(isOpen ? "sheet-opened" : "sheet-closed"));
    if (!isOpen) continue;
    /** @type {HTMLElement | null} */ (sheet.querySelector("input:not([type=hidden]), select"))?.focus({ preventScroll: true });
  }
}

document.addEventListener("keydown", (event) => {
  const at = words().indexOf(/** @type {HTMLElement} */ (document.activeElement));
  if (event.key === "Escape" && /** @type {Element} */ (event.target).closest(".low-sheet")) return leaveSheet();
  if (at < 0 || event.ctrlKey || event.altKey || event.metaKey) return;
  const all = words();
  const round = (/** @type {number} */ k) => all[(k + all.length) % all.length];
  /** @type {Record<string, HTMLElement>} */
  const next = { ArrowRight: round(at + 1), ArrowLeft: round(at - 1), Home: all[0], End: all[all.length - 1] };
  const behind = [...all.slice(at + 1), ...all.slice(0, at + 1)];
  const word = next[event.key] ?? (event.key.length === 1 && event.key !== " " ? behind.find((each) => each.textContent?.trim().toLowerCase().startsWith(event.key.toLowerCase())) : undefined);
  if (!word) return;
  event.preventDefault();
  event.stopPropagation();
  reach(word);
});

function leaveSheet() {
  const open = document.querySelector("[data-sheet][aria-expanded=true]");
  showSheet(null);
  /** @type {HTMLElement | null} */ (open)?.focus();
}

document.addEventListener("click", (event) => {
  const target = /** @type {Element} */ (event.target);
  const sheet = target.closest("[data-sheet]")?.getAttribute("data-sheet");
  if (sheet) showSheet(sheet);
  if (target.closest("[data-close-sheet]")) leaveSheet();
});

words().forEach((word, k) => (word.tabIndex = k ? -1 : 0));
