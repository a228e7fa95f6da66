import "./globals.js";
import assert from "node:assert/strict";
import { afterEach, beforeEach, describe, mock, test } from "node:test";
import { element, serve, settled } from "./fakes.js";

/** A browser's storage. */
const stored = /** @type {Record<string, string>} */ ({});
globalThis.localStorage = /** @type {any} */ (new Proxy({}, {
  get: (_, name) => ({ getItem: (/** @type {string} */ key) => stored[key] ?? null, setItem: (/** @type {string} */ key, /** @type {string} */ value) => void (stored[key] = value), removeItem: (/** @type {string} */ key) => void delete stored[key] })[String(name)],
  ownKeys: () => Object.keys(stored),
  getOwnPropertyDescriptor: () => ({ enumerable: true, configurable: true }),
}));
/** @type {Record<string, () => void>} */
const onPage = {};
const stand = element({ getAttribute: (/** @type {string} */ name) => ({ "data-user": "7", "data-settings": "/stand/settings/" })[name] });
globalThis.document = /** @type {any} */ ({
  cookie: "", visibilityState: "visible", body: { addEventListener: () => {} }, querySelectorAll: () => [],
  addEventListener: (/** @type {string} */ type, /** @type {() => void} */ act) => (onPage[type] = act), querySelector: (/** @type {string} */ what) => (what === "[data-stand]" ? stand : null),
  getElementById: (/** @type {string} */ id) => (id === "kept" ? { textContent: JSON.stringify({ speaks: [50, "beats"], "tempo-5": [90, 60] }) } : null),
});
stored["oido/7"] = JSON.stringify({ "tempo-5": [80, 72], "shows-next": [70, false] });
stored["oido-latency"] = "of nobody";
mock.timers.enable({ apis: ["setTimeout", "Date"], now: 100 });
// A browser's timers are numbers.
const timers = /** @type {any[]} */ ([]);
const [begin, end] = [globalThis.setTimeout, globalThis.clearTimeout];
globalThis.setTimeout = /** @type {any} */ ((/** @type {any[]} */ ...all) => timers.push(/** @type {any} */ (begin)(...all)));
globalThis.clearTimeout = /** @type {any} */ ((/** @type {number} */ number) => number && end(timers[number - 1]));
const { keep, read } = await import("../../src/oido/stand/static/stand/js/settings.js");

/** @type {ReturnType<typeof serve>} */
let server;
beforeEach(() => (server = serve({})));
afterEach(() => server.end());

/** @param {number} ms */
async function later(ms) {
  mock.timers.tick(ms);
  await settled();
}

describe("settings of a person", () => {
  test("are those of the server and of this browser, the newer of each", () => {
    assert.deepEqual([read("speaks", "bars"), read("tempo-5", 0), read("shows-next", true), read("sound", "piano")], ["beats", 60, false, "piano"]);
    assert.equal(stored["oido-latency"], undefined, "what nobody owned is gone");
  });

  test("that only this browser has go to the server by themselves", async () => {
    await later(1500);
    assert.deepEqual(server.asked.map(({ url, body }) => [url, body]), [["/stand/settings/", { kept: { "shows-next": [70, false] } }]]);
  });

  test("go together after a while, and once", async () => {
    keep("speaks", "nothing");
    keep("tempo-5", 66);
    keep("tempo-5", 68);
    await later(1499);
    assert.equal(server.asked.length, 0);
    await later(1);
    assert.deepEqual(Object.entries(server.asked[0].body.kept).map(([name, [, value]]) => [name, value]), [["speaks", "nothing"], ["tempo-5", 68]]);
    await later(60_000);
    assert.equal(server.asked.length, 1);
    assert.equal(read("tempo-5", 0), 68);
  });

  test("that are what they were are not sent", async () => {
    keep("tempo-5", 68);
    await later(5000);
    assert.equal(server.asked.length, 0);
  });

  test("are kept here while the server cannot be reached, and go with the next one", async () => {
    server.end();
    server = serve(new Error("offline"), {});
    keep("sound", "organ");
    await later(1500);
    assert.equal(server.asked.length, 1);
    assert.equal(JSON.parse(stored["oido/7"]).sound[1], "organ");
    keep("speaks", "bars");
    await later(1500);
    assert.deepEqual(Object.keys(server.asked[1].body.kept).sort(), ["sound", "speaks"]);
  });

  test("that are changed while they are sent are sent once more", async () => {
    let answer = /** @type {(value: any) => void} */ (() => {});
    server.end();
    server = serve(new Promise((resolve) => (answer = resolve)), {});
    keep("sound", "strings");
    await later(1500);
    keep("sound", "harp");
    answer({});
    await settled();
    await later(1500);
    assert.equal(server.asked[1].body.kept.sound[1], "harp");
  });

  test("that are true of one computer are kept under its id", () => {
    keep("latency", { "midi|Keys": { offsetMs: 12 } });
    const names = Object.keys(JSON.parse(stored["oido/7"]));
    assert.ok(names.includes(`latency@${stored["oido-computer"]}`));
    assert.deepEqual(read("latency", {}), { "midi|Keys": { offsetMs: 12 } });
  });

  test("go at once where the page is left", async () => {
    await later(2000);
    server.end();
    server = serve({});
    keep("speaks", "beats");
    Object.assign(document, { visibilityState: "hidden" });
    onPage.visibilitychange();
    await settled();
    assert.deepEqual(Object.keys(server.asked[0].body.kept), ["speaks"]);
  });
});
