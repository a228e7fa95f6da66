/** Labels on the page of music: each kind switched by whoever reads it, and kept in this browser. */
import { known, letterOf } from "./playing/key_letters.js";

const KEPT = "oido-hidden-labels";

/** @param {Set<string>} hidden */
function hide(hidden) {
  document.getElementById("main")?.setAttribute("data-hides", [...hidden].join(" "));
}

/** Keys to type show the letters of this computer. */
async function showLetters() {
  await known;
  for (const label of document.querySelectorAll("[data-code]")) label.textContent = `${letterOf(label.getAttribute("data-code") ?? "")} `;
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
