/**
 * From take to take without waiting: the takes beside this one are fetched ahead, and put in this page's place;
 * sounds stay loaded. Without this script the same links and forms load whole pages.
 */

import { ask } from "../../common/js/signed_out.js";

/** @type {Map<string, Promise<string>>} pages fetched ahead, by address; forgotten with each step */
let ahead = new Map();

/** @param {string} url @param {RequestInit} [how] @returns {Promise<{html: string, url: string}>} */
async function fetched(url, how) {
  // What is only fetched ahead may fail; what is sent must not be lost.
  const response = how ? await ask(url, how) : await fetch(url);
  if (!response.ok) throw new Error(String(response.status));
  return { html: await response.text(), url: response.url };
}

function fetchAhead() {
  ahead = new Map();
  for (const link of /** @type {NodeListOf<HTMLAnchorElement>} */ (document.querySelectorAll(".desk-line a[rel=next], .desk-line a[rel=prev]"))) {
    // Opening one that has an unread answer says that it was read: that is not done ahead of time.
    if (new URL(link.href).searchParams.get("state") === "questions") continue;
    // What fails ahead of time is asked for again when it is wanted.
    ahead.set(link.href, fetched(link.href).then(({ html }) => html, () => ""));
  }
}

/** @param {string} html a whole page @param {string} url its address */
function put(html, url) {
  const page = new DOMParser().parseFromString(html, "text/html");
  for (const selector of ["#main", ".notices", "section.foot"]) {
    const [old, fresh] = [document.querySelector(selector), page.querySelector(selector)];
    // Another sort of page: the browser loads it as it is.
    if (!old || !fresh) return window.location.assign(url);
    old.replaceWith(document.adoptNode(fresh));
  }
  // Data for scripts that stood beside the foot line.
  document.getElementById("playing")?.remove();
  const data = page.getElementById("playing");
  if (data) document.body.append(document.adoptNode(data));
  document.title = page.title;
  window.history.pushState({}, "", url);
  window.scrollTo(0, 0);
  document.getElementById("main")?.focus({ preventScroll: true });
  htmx.process(/** @type {Element} */ (document.getElementById("main")));
  document.dispatchEvent(new Event("page-put"));
  fetchAhead();
}

document.addEventListener("click", async (event) => {
  const link = /** @type {HTMLAnchorElement | null} */ (/** @type {Element} */ (event.target).closest(".desk-line a[rel]"));
  if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.button > 0) return;
  event.preventDefault();
  try {
    put((await ahead.get(link.href)) || (await fetched(link.href)).html, link.href);
  } catch {
    window.location.assign(link.href);
  }
});

document.addEventListener("submit", async (event) => {
  const form = /** @type {HTMLFormElement} */ (event.target);
  if (!form.matches(".desk-top form") || form.dataset.plain) return;
  event.preventDefault();
  const { submitter } = event;
  const body = new URLSearchParams(/** @type {any} */ (new FormData(form, submitter)));
  if (submitter instanceof HTMLButtonElement) submitter.disabled = true;
  try {
    const { html, url } = await fetched(form.action, { method: "POST", body });
    put(html, url);
  } catch {
    // The server says itself what is wrong, on a page of its own.
    form.dataset.plain = "yes";
    if (submitter instanceof HTMLButtonElement) submitter.disabled = false;
    form.requestSubmit(submitter);
  }
});

window.addEventListener("popstate", () => window.location.reload());
if ("requestIdleCallback" in window) requestIdleCallback(fetchAhead);
else setTimeout(fetchAhead, 300);
