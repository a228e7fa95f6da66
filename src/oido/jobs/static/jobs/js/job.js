/** What was being made is fetched as soon as it is there: once, and the page stays. */
document.body.addEventListener("htmx:afterSwap", () => {
  const file = document.getElementById("job")?.dataset.file;
  if (file) window.location.assign(file);
});
