/** A request of the page that failed is reported where the page's notices are; what is on the page stays as it is. */
const SIGNED_OUT = 401;
const TOO_MANY = 429;

/** @param {number} status @param {string} text of the answer @returns {string} what happened and what to do */
export function describeFailure(status, text) {
  if (status === TOO_MANY && text) return text;
  if (status === 403 || status === 404) return gettext("You can’t do that here any more. Reload the page.");
  return interpolate(gettext("Oido could not do that (error %(code)s). Nothing that was saved is lost. Try again."), { code: status }, true);
}

/** @param {string} sentence */
function report(sentence) {
  const notice = Object.assign(document.createElement("p"), { className: "notice notice-error", textContent: sentence });
  document.querySelector(".notices")?.replaceChildren(notice);
}

// Tests of the function above have no document.
globalThis.document?.addEventListener("htmx:responseError", (event) => {
  const { xhr } = /** @type {CustomEvent} */ (event).detail;
  if (xhr.status !== SIGNED_OUT) report(describeFailure(xhr.status, xhr.responseText));
});
globalThis.document?.addEventListener("htmx:sendError", () => report(gettext("Oido can’t be reached. Check your connection and try again.")));
