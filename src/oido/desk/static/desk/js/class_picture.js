/** The class picture: hands and lanes chosen, printing; its fields are heard by themselves. */
import "../../common/js/hear_fields.js";

for (const choice of document.querySelectorAll("[data-submits]")) {
  choice.addEventListener("change", () => /** @type {HTMLInputElement} */ (choice).form?.submit());
}
document.querySelector("[data-print]")?.addEventListener("click", () => window.print());
