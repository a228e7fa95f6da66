/** Labels on the page of music: each kind switched by whoever reads it, and kept in this browser. */
const KEPT = "oido-hidden-labels";

/** @param {Set<string>} hidden */
function hide(hidden) {
  document.getElementById("main")?.setAttribute("data-hides", [...hidden].join(" "));
}

/** Keys to type show the letters of this machine, where the browser tells them. */
async function showLetters() {
  const keyboard = /** @type {any} */ (navigator).keyboard;
  const map = keyboard?.getLayoutMap ? await keyboard.getLayoutMap().catch(() => null) : null;
  for (const label of document.querySelectorAll("[data-code]")) {
    const letter = map?.get(label.getAttribute("data-code"));
    if (letter) label.textContent = `${letter.toUpperCase()} `;
  }
}

const switches = /** @type {HTMLInputElement[]} */ ([...document.querySelectorAll("[data-labels] input")]);
const hidden = new Set((localStorage.getItem(KEPT) ?? "").split(" ").filter(Boolean));
for (const input of switches) {
  input.checked = !hidden.has(input.value);
  input.addEventListener("change", () => {
    if (input.checked) hidden.delete(input.value);
    else hidden.add(input.value);
    localStorage.setItem(KEPT, [...hidden].join(" "));
    hide(hidden);
  });
}
if (switches.length > 0) hide(hidden);
showLetters();
document.body.addEventListener("htmx:afterSettle", showLetters);
