/**
 * Takes on their way to the server: kept in this browser until the server has confirmed them.
 */
import { openDB } from "../../vendor/idb.js";
import { csrfToken } from "../../common/js/main.js";

const STORE = "takes";
const AGAIN_MS = 8000;
const CREATED = 201;
const REFUSED = 422;

export class Outbox {
  /** @param {string} user @param {(waiting: number, why: string) => void} onState @param {(parcel: Parcel, html: string) => void} onSent */
  constructor(user, onState, onSent) {
    this.user = user;
    this.onState = onState;
    this.onSent = onSent;
    this.isSending = false;
    this.opened = openDB("oido", 1, {
      upgrade: (/** @type {any} */ database) => database.createObjectStore(STORE, { keyPath: "id" }),
    });
    window.addEventListener("online", () => this.send());
    this.send();
  }

  /** @param {Parcel} parcel */
  async add(parcel) {
    await (await this.opened).put(STORE, parcel);
    await this.send();
  }

  /** @returns {Promise<Parcel[]>} those of this person */
  async waiting() {
    const all = await (await this.opened).getAll(STORE);
    return all.filter((/** @type {Parcel} */ parcel) => parcel.user === this.user);
  }

  async send() {
    if (this.isSending) return;
    this.isSending = true;
    let why = "";
    try {
      for (const parcel of await this.waiting()) {
        why = await this.sendOne(parcel);
        if (why) break;
      }
    } finally {
      this.isSending = false;
    }
    const left = (await this.waiting()).length;
    this.onState(left, why);
    if (left > 0) window.setTimeout(() => this.send(), AGAIN_MS);
  }

  /** @param {Parcel} parcel @returns {Promise<string>} why it could not be sent, or nothing */
  async sendOne(parcel) {
    let response;
    try {
      response = await fetch(parcel.url, {
        method: "POST",
        headers: { "Content-Type": "application/json", "X-CSRFToken": csrfToken() },
        body: JSON.stringify(parcel.body),
      });
    } catch {
      return gettext("the network is away");
    }
    if (response.redirected) return gettext("you are signed out; sign in again in another tab");
    if (response.status === REFUSED) return interpolate(gettext("the server could not read it (%(why)s)"), { why: await response.text() }, true);
    if (response.status !== CREATED) return interpolate(gettext("the server answered %(code)s"), { code: response.status }, true);
    await (await this.opened).delete(STORE, parcel.id);
    this.onSent(parcel, await response.text());
    return "";
  }
}
