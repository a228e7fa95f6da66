/**
 * Answers when the network does not: a page that cannot be fetched is replaced by one that says so. Nothing else is kept, so that nobody
 * sees an old page, or one of somebody else.
 *
 * @typedef {Event & {waitUntil: (work: Promise<unknown>) => void}} WorkerEvent
 * @typedef {WorkerEvent & {request: Request, respondWith: (answer: Promise<Response>) => void}} RequestEvent
 */
const KEPT = "offline";
const PAGE = "/offline/";
const STYLES = /href="(\/static\/[^"]+\.css)"/g;

/** Keep the page and its styles. */
async function keep() {
  const page = await fetch(PAGE, { headers: { "Accept-Language": new URL(location.href).searchParams.get("language") ?? "" } });
  const styles = [...(await page.clone().text()).matchAll(STYLES)].map(([, address]) => address);
  const cache = await caches.open(KEPT);
  await Promise.all([cache.put(PAGE, page), cache.addAll(styles)]);
}

/** @param {Request} request @returns {Promise<Response>} what the network says, or what was kept */
async function answer(request) {
  try {
    return await fetch(request);
  } catch (problem) {
    const kept = await caches.match(request.mode === "navigate" ? PAGE : request);
    if (kept) return kept;
    throw problem;
  }
}

addEventListener("install", (event) => /** @type {WorkerEvent} */ (event).waitUntil(keep()));
addEventListener("fetch", (event) => {
  const asked = /** @type {RequestEvent} */ (event);
  const isPage = asked.request.mode === "navigate" && asked.request.method === "GET";
  if (isPage || asked.request.destination === "style") asked.respondWith(answer(asked.request));
});
