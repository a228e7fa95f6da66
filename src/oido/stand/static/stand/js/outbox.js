/**
 * What was recorded, on its way to the server: kept in this browser until the server has confirmed it,
 * from the first note on.
 */
import { openDB } from "../../vendor/idb.js";
import { csrfToken } from "../../common/js/signed_out.js";
import { deliver, deliveryOf } from "./delivery.js";

const STORE = "takes";
const AGAIN_MS = 8000;
/** A recording that was not written on for so long was broken off: its page is gone. */
const BROKEN_OFF_MS = 6000;
/** When a page of this browser last sent a take. */
const SENT = "oido-sent";

/** @typedef {{waiting: number, why: string, refused: Parcel[]}} OutboxState  refused ones will not be taken as they are */

export class Outbox {
  /** @param {string} user @param {(state: OutboxState) => void} onState @param {(parcel: Parcel, html: string) => void} onSent */
  constructor(user, onState, onSent) {
    this.user = user;
    this.onState = onState;
    this.onSent = onSent;
    this.isSending = false;
    this.wantsToSend = false;
    this.opened = openDB("oido", 1, {
      upgrade: (/** @type {any} */ database) => database.createObjectStore(STORE, { keyPath: "id" }),
    });
    window.addEventListener("online", () => this.send());
    this.send();
  }

  /** Keep what is being recorded, as far as it is. @param {Parcel} parcel */
  async keep(parcel) {
    await (await this.opened).put(STORE, { ...parcel, recordingAt: Date.now() });
  }

  /** @param {Parcel} parcel */
  async add(parcel) {
    await (await this.opened).put(STORE, { ...parcel, recordingAt: undefined });
    await this.send();
  }

  /** Nothing was played after all, or nobody wants it. @param {string} id */
  async drop(id) {
    await (await this.opened).delete(STORE, id);
    await this.send();
  }

  /** Those of this person, in the order in which they were recorded. @returns {Promise<Parcel[]>} */
  async waiting() {
    const all = await (await this.opened).getAll(STORE);
    const now = Date.now();
    return all
      .filter((/** @type {Parcel} */ parcel) => parcel.user === this.user && !(parcel.recordingAt && now - parcel.recordingAt < BROKEN_OFF_MS))
      .sort((/** @type {Parcel} */ a, /** @type {Parcel} */ b) => String(a.body.recorded_at).localeCompare(String(b.body.recorded_at)));
  }

  async send() {
    this.wantsToSend = true;
    if (this.isSending) return;
    this.isSending = true;
    let why = "";
    /** @type {Parcel[]} */
    let refused = [];
    try {
      while (this.wantsToSend) {
        this.wantsToSend = false;
        ({ why, refused } = await deliver(await this.waiting(), (parcel) => this.sendOne(parcel)));
      }
    } finally {
      this.isSending = false;
    }
    const left = (await this.waiting()).length;
    this.onState({ waiting: left - refused.length, why, refused });
    if (left > refused.length || (await this.isBeingKept())) window.setTimeout(() => this.send(), AGAIN_MS);
  }

  /** Is there a recording that may turn out to be broken off? */
  async isBeingKept() {
    const all = await (await this.opened).getAll(STORE);
    return all.some((/** @type {Parcel} */ parcel) => parcel.user === this.user && parcel.recordingAt);
  }

  /** @param {Parcel} parcel @returns {Promise<import("./delivery.js").Delivery>} */
  async sendOne(parcel) {
    let response;
    try {
      response = await this.post(parcel);
    } catch {
      return { outcome: "halted", why: gettext("You are offline.") };
    }
    const text = await response.text();
    const delivery = deliveryOf(response.status, reasons(text));
    if (delivery.outcome === "sent") {
      noteSent();
      await (await this.opened).delete(STORE, parcel.id);
      this.onSent(parcel, text);
    }
    return delivery;
  }

  /** @param {Parcel} parcel */
  post(parcel) {
    return fetch(parcel.url, {
      method: "POST",
      headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
      body: JSON.stringify(parcel.body),
    });
  }
}

/** Where the browser stores nothing, other pages of it are not told; what was sent is sent all the same. */
function noteSent() {
  try {
    globalThis.localStorage?.setItem(SENT, String(Date.now()));
  } catch {
    // Full, or forbidden.
  }
}

/** A take is sent by whichever page gets to it first: another tab, or the page before while this one was already on its way,
 * and so without that take in its list. @param {() => void} onSent */
export function whenSentElsewhere(onSent) {
  window.addEventListener("storage", ({ key }) => void (key === SENT && onSent()));
  if (Number(localStorage.getItem(SENT)) > performance.timeOrigin) onSent();
}

/** What the server says is wrong, by field; nothing where it answers with a page. @param {string} text @returns {string[]} */
function reasons(text) {
  try {
    return /** @type {string[]} */ (Object.values(JSON.parse(text).errors).flat());
  } catch {
    return [];
  }
}
