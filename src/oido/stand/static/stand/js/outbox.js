/**
 * What was recorded, on its way to the server: kept in this browser until the server has confirmed it,
 * from the first note on.
 */
import { openDB } from "../../vendor/idb.js";
import { csrfToken } from "../../common/js/signed_out.js";

const STORE = "takes";
const AGAIN_MS = 8000;
/** A recording that was not written on for so long was broken off: its page is gone. */
const BROKEN_OFF_MS = 6000;
const CREATED = 201;
const REFUSED = 422;
const SIGNED_OUT = 401;

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
    const refused = [];
    try {
      while (this.wantsToSend) {
        this.wantsToSend = false;
        refused.length = 0;
        why = "";
        for (const parcel of await this.waiting()) {
          const said = await this.sendOne(parcel);
          if (said.isRefused) refused.push({ ...parcel, why: said.why });
          else if ((why = said.why)) break;
        }
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

  /** @param {Parcel} parcel @returns {Promise<{why: string, isRefused?: boolean}>} why it could not be sent, or nothing */
  async sendOne(parcel) {
    let response;
    try {
      response = await this.post(parcel);
    } catch {
      return { why: gettext("you are offline") };
    }
    if (response.status === SIGNED_OUT) return { why: gettext("you are signed out; sign in again in another tab") };
    if (response.status === REFUSED) return { why: await reasons(response), isRefused: true };
    if (response.status !== CREATED) return { why: interpolate(gettext("the server answered %(code)s"), { code: response.status }, true) };
    await (await this.opened).delete(STORE, parcel.id);
    this.onSent(parcel, await response.text());
    return { why: "" };
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

/** @param {Response} response */
async function reasons(response) {
  const text = await response.text();
  try {
    return Object.values(JSON.parse(text).errors).flat().join("; ");
  } catch {
    return text;
  }
}
