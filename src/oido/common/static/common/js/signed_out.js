/**
 * Signed out in the middle of something: requests that were refused wait behind a dialog, and are sent again, in order,
 * once their person has signed in in another tab. Tokens come from the cookie, which is always of now.
 */
const SIGNED_OUT = 401;
const TOKEN = "csrfmiddlewaretoken";

/** @returns {string} the token that Django wants with each POST */
export function csrfToken() {
  return document.cookie.match(/(?:^|; )csrftoken=([^;]+)/)?.[1] ?? "";
}

/** @type {(() => unknown)[]} what is to be done once somebody goes on */
let waiting = [];
let isHeld = false;

/** Somebody is playing: the dialog waits until they are done. @param {boolean} held */
export function holdDialog(held) {
  isHeld = held;
  if (!isHeld && waiting.length > 0) showDialog();
}

function showDialog() {
  const dialog = /** @type {HTMLDialogElement | null} */ (document.getElementById("signed-out"));
  if (dialog && !dialog.open) dialog.showModal();
}

/** Show the dialog; resolves when somebody goes on. @returns {Promise<void>} */
function signedInAgain() {
  if (!isHeld) showDialog();
  return new Promise((resolve) => waiting.push(resolve));
}

async function goOn() {
  /** @type {HTMLDialogElement | null} */ (document.getElementById("signed-out"))?.close();
  const these = waiting;
  waiting = [];
  for (const act of these) await act();
}

/**
 * As fetch does; where nobody is signed in any more, it waits and asks again.
 * @param {string} url @param {RequestInit} [how] @returns {Promise<Response>}
 */
export async function ask(url, how = {}) {
  if (how.body instanceof FormData && how.body.has(TOKEN)) how.body.set(TOKEN, csrfToken());
  const headers = how.method === "POST" ? { ...how.headers, "X-CSRFToken": csrfToken() } : how.headers;
  const response = await fetch(url, { ...how, headers });
  if (response.status !== SIGNED_OUT) return response;
  await signedInAgain();
  return ask(url, how);
}

document.addEventListener("click", (event) => {
  if (/** @type {Element} */ (event.target).closest("[data-go-on]")) goOn();
});
// A page may be older than the last signing in.
document.addEventListener("submit", (event) => {
  const field = /** @type {HTMLFormElement} */ (event.target).querySelector(`[name=${TOKEN}]`);
  if (field && csrfToken()) /** @type {HTMLInputElement} */ (field).value = csrfToken();
}, true);
document.addEventListener("htmx:configRequest", (event) => {
  const { headers, parameters } = /** @type {CustomEvent} */ (event).detail;
  headers["X-CSRFToken"] = csrfToken();
  if (TOKEN in parameters) parameters[TOKEN] = csrfToken();
});
document.addEventListener("htmx:responseError", (event) => {
  const { xhr, requestConfig, etc, target } = /** @type {CustomEvent} */ (event).detail;
  if (xhr.status !== SIGNED_OUT) return;
  const again = () =>
    htmx.ajax(requestConfig.verb, requestConfig.path, {
      source: requestConfig.elt.isConnected ? requestConfig.elt : undefined, target, swap: etc?.swapOverride, values: requestConfig.parameters,
    });
  signedInAgain().then(again);
});
