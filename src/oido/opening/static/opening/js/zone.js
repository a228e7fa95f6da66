/** Setting up a school: the browser's own time zone is the likely one. */
const choice = /** @type {HTMLInputElement | null} */ (document.querySelector("input[name=time_zone]"));
const likely = Intl.DateTimeFormat().resolvedOptions().timeZone;
if (choice?.value === "UTC" && [...(choice.list?.options ?? [])].some((option) => option.value === likely)) choice.value = likely;
