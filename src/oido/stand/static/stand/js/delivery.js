/**
 * What becomes of parcels, one by one: no page and no network, so that it is tested by itself.
 *
 * sent     the server has it
 * waiting  it is tried again later
 * refused  the server will not take it as it is: its owner downloads or deletes it
 * halted   nobody can send anything now: the network is away, or the person is signed out
 */

/** @typedef {{outcome: "sent" | "waiting" | "refused" | "halted", why: string}} Delivery */

const CREATED = 201;
const SIGNED_OUT = 401;
const TIMED_OUT = 408;
const TOO_MANY = 429;
const SERVER_ERRORS = 500;

/** @param {number} status @param {string[]} reasons that the server gave, if any @returns {Delivery} */
export function deliveryOf(status, reasons) {
  if (status === CREATED) return { outcome: "sent", why: "" };
  if (status === SIGNED_OUT) return { outcome: "halted", why: gettext("You are signed out. Sign in again in another tab.") };
  if (status === TIMED_OUT || status === TOO_MANY || status >= SERVER_ERRORS) {
    return { outcome: "waiting", why: reasons.join(" ") || interpolate(gettext("Oido could not save it (error %(code)s)."), { code: status }, true) };
  }
  return { outcome: "refused", why: reasons.length ? reasons.join(" ") : whyRefused(status) };
}

/** @param {number} status */
function whyRefused(status) {
  if (status === 403) return gettext("You can no longer record this exercise.");
  if (status === 404) return gettext("This exercise is no longer set for you.");
  if (status === 400 || status === 413) return gettext("The recording is too large.");
  return interpolate(gettext("Oido could not save it (error %(code)s)."), { code: status }, true);
}

/** The take into which a pass is laid; a take of its own has none. @param {Parcel} parcel */
export function takeOf(parcel) {
  return parcel.url.match(/^\/takes\/([0-9a-f-]+)\/passes\/$/)?.[1] ?? "";
}

/**
 * Send parcels in order. A take that is refused, or has to wait, holds up its passes, and a pass that has
 * to wait those after it; nothing else waits for them.
 * @param {Parcel[]} parcels @param {(parcel: Parcel) => Promise<Delivery>} send
 * @returns {Promise<{why: string, refused: Parcel[]}>} why the first of those that wait does
 */
export async function deliver(parcels, send) {
  /** @type {Map<string, Delivery>} */
  const heldUp = new Map();
  /** @type {Parcel[]} */
  const refused = [];
  let why = "";
  for (const parcel of parcels) {
    const before = heldUp.get(takeOf(parcel));
    const delivery = before ?? (await send(parcel));
    if (delivery.outcome === "sent") continue;
    heldUp.set(parcel.id, delivery);
    // Passes lie over one another in the order in which they were played.
    if (delivery.outcome === "waiting" && takeOf(parcel)) heldUp.set(takeOf(parcel), delivery);
    if (delivery.outcome === "refused") refused.push({ ...parcel, why: delivery.why });
    else why ||= delivery.why;
    if (delivery.outcome === "halted") break;
  }
  return { why, refused };
}
