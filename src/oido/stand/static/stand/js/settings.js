/**
 * Settings of the person who plays: kept on the server, and in this browser under that person's name, each with the time at
 * which it was set; the newer one counts. Nobody else who sits down here sees them.
 *
 * Some of them are true of one computer alone: its latency, the source and device that are there, its volumes. They are kept
 * under the id of the computer, which is stored in its browser, so that they do not follow the person to another one.
 *
 * @typedef {Record<string, [number, unknown]>} Kept  by name: when it was set, in ms, and what
 */
import { ask } from "../../common/js/signed_out.js";

const SOON_MS = 1500;
/** What was kept before for whoever sat here. */
const OF_NOBODY = /^oido-(latency|pads|mixer|sound|source|midi-out|tempo-\d+)$/;

const OF_COMPUTER = new Set(["latency", "source", "device", "midi-out", "mixer", "dropped-keys"]);
const COMPUTER = "oido-computer";
const ID_LENGTH = 13;

/** The id of this computer, made when it is first asked for. */
function computerId() {
  const storage = globalThis.localStorage;
  if (!storage) return "here";
  if (!storage.getItem(COMPUTER)) storage.setItem(COMPUTER, crypto.randomUUID().slice(0, ID_LENGTH));
  return storage.getItem(COMPUTER) ?? "here";
}

/** What a setting is kept under. @param {string} name @param {string} computer */
export function keyOf(name, computer) {
  return OF_COMPUTER.has(name) ? `${name}@${computer}` : name;
}

const stand = globalThis.document?.querySelector?.("[data-stand]");
const [user, url] = [stand?.getAttribute("data-user") ?? "", stand?.getAttribute("data-settings") ?? ""];
const place = `oido/${user}`;

/** @param {string | null | undefined} text @returns {Kept} */
function parsed(text) {
  try {
    return JSON.parse(text ?? "") ?? {};
  } catch {
    return {};
  }
}

/** Of each setting the newer. @param {Kept} one @param {Kept} other @returns {Kept} */
export function newest(one, other) {
  const settings = { ...one };
  for (const [name, kept] of Object.entries(other)) if (!settings[name] || settings[name][0] < kept[0]) settings[name] = kept;
  return settings;
}

const onServer = parsed(globalThis.document?.getElementById?.("kept")?.textContent);
const here = parsed(globalThis.localStorage?.getItem(place));
const all = newest(onServer, here);
/** @type {Set<string>} names that the server does not have yet */
const unsent = new Set(Object.keys(here).filter((name) => !onServer[name] || onServer[name][0] < here[name][0]));
let timer = 0;

/** @template T @param {string} name @param {T} otherwise @returns {T} */
export function read(name, otherwise) {
  return /** @type {T} */ (all[keyOf(name, computerId())]?.[1] ?? otherwise);
}

/** @param {string} name @param {unknown} value */
export function keep(name, value) {
  const key = keyOf(name, computerId());
  if (JSON.stringify(all[key]?.[1]) === JSON.stringify(value)) return;
  all[key] = [Date.now(), value];
  globalThis.localStorage?.setItem(place, JSON.stringify(all));
  unsent.add(key);
  soon();
}

function soon() {
  globalThis.clearTimeout(timer);
  if (url) timer = Number(globalThis.setTimeout(send, SOON_MS));
}

async function send() {
  const names = [...unsent];
  if (!url || names.length === 0) return;
  const kept = Object.fromEntries(names.map((name) => [name, all[name]]));
  // Offline it waits here, and goes with the next one.
  const response = await ask(url, { method: "POST", keepalive: true, headers: { "Content-Type": "application/json" }, body: JSON.stringify(/** @satisfies {SettingsBody} */ ({ kept })) }).catch(() => null);
  if (response?.ok) for (const name of names) if (all[name] === kept[name]) unsent.delete(name);
}

if (user) {
  for (const name of Object.keys(globalThis.localStorage ?? {})) if (OF_NOBODY.test(name)) localStorage.removeItem(name);
  if (unsent.size > 0) soon();
  document.addEventListener("visibilitychange", () => document.visibilityState === "hidden" && send());
}
