/** Setting up a school: the browser's own time zone is the likely one. */
const choice = /** @type {HTMLSelectElement | null} */ (document.querySelector("select[name=time_zone]"));
const likely = Intl.DateTimeFormat().resolvedOptions().timeZone;
if (choice?.value === "UTC" && [...choice.options].some((option) => option.value === likely)) choice.value = likely;
