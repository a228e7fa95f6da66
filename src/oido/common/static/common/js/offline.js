/** Keeps the page that says so when Oido cannot be reached, in the language of this one. */
void navigator.serviceWorker?.register(`/offline.js?language=${document.documentElement.lang}`).catch(() => {
  // A browser that keeps nothing, such as in a private window, shows its own page.
});
