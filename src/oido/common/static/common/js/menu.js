/** Menus: a word that opens a short list of actions. One is open at a time; Escape, or a press elsewhere, closes it. */

/** @returns {HTMLDetailsElement[]} */
const openMenus = () => [...document.querySelectorAll(/** @type {"details"} */ ("details.menu[open]"))];

document.addEventListener("click", ({ target }) => {
  for (const menu of openMenus()) if (!menu.contains(/** @type {Node} */ (target))) menu.open = false;
});

// Before anything else that Escape does on the page: first the menu closes.
document.addEventListener(
  "keydown",
  (event) => {
    if (event.key !== "Escape") return;
    const [menu] = openMenus();
    if (!menu) return;
    menu.open = false;
    menu.querySelector("summary")?.focus();
    event.preventDefault();
    event.stopPropagation();
  },
  { capture: true },
);
