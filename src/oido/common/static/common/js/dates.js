/** Dates in words under their fields: browsers write dates each in its own way. */

/** @param {string} value as a date field has it @param {string} language @returns {string} */
export function inWords(value, language) {
  const [year, month, day] = value.split("-").map(Number);
  if (!year || !month || !day) return "";
  const format = new Intl.DateTimeFormat(language, { weekday: "long", day: "numeric", month: "long", year: "numeric", timeZone: "UTC" });
  return format.format(Date.UTC(year, month - 1, day)).replace(",", "");
}

document.addEventListener("input", (event) => {
  const field = /** @type {HTMLInputElement} */ (event.target);
  if (field.type !== "date") return;
  const words = field.parentElement?.querySelector("[data-date-words]");
  if (words) words.textContent = inWords(field.value, document.documentElement.lang);
});
