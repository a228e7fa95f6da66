import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { afterEach, beforeEach, describe, mock, test } from "node:test";
import { Outbox } from "../../src/oido/stand/static/stand/js/outbox.js";
import { serve, settled } from "./fakes.js";
import { rows } from "./idb.js";

/** @type {ReturnType<typeof serve>} */
let server;
/** @type {Record<string, (() => void)[]>} */
const onWindow = {};
globalThis.addEventListener = /** @type {any} */ ((/** @type {string} */ type, /** @type {() => void} */ act) => (onWindow[type] ??= []).push(act));

beforeEach(() => {
  rows.clear();
  mock.timers.enable({ apis: ["setTimeout", "Date"], now: 1_000_000 });
});
afterEach(() => {
  server.end();
  mock.timers.reset();
});

/** @param {string} id @param {Partial<Parcel>} [more] @returns {Parcel} */
const parcel = (id, more = {}) => ({ id, user: "7", url: "/assignments/1/takes/", body: { id, recorded_at: `2026-12-01T10:00:0${id}Z`, events: [] }, ...more });

/** An outbox, what it says of itself, and what it has sent. @param {any[]} answers */
async function outbox(...answers) {
  server = serve(...answers);
  /** @type {any[]} */
  const states = [];
  /** @type {string[]} */
  const sent = [];
  const box = new Outbox("7", (state) => states.push(state), (one) => sent.push(one.id));
  await settled();
  return { box, states, sent, last: () => states.at(-1) };
}

/** Some seconds later. @param {number} ms */
async function later(ms) {
  mock.timers.tick(ms);
  await settled();
}

describe("the outbox", () => {
  test("keeps a take until the server has it", async () => {
    const { box, sent, last } = await outbox({ status: 201, text: "<table>" });
    await box.add(parcel("1"));
    await settled();
    assert.deepEqual([sent, rows.size, last().waiting], [["1"], 0, 0]);
  });

  test("sends again by itself once the network is back, and says what it waits for", async () => {
    const { box, sent, last } = await outbox(new Error("no network"), { status: 201 });
    await box.add(parcel("1"));
    assert.deepEqual([sent, rows.size, last().waiting, last().why], [[], 1, 1, "You are offline."]);
    await later(8000);
    assert.deepEqual([sent, rows.size], [["1"], 0]);
  });

  test("sends as soon as the browser says that it is online", async () => {
    const { box, sent } = await outbox(new Error("no network"), { status: 201 });
    await box.add(parcel("1"));
    onWindow.online.at(-1)?.();
    await settled();
    assert.deepEqual(sent, ["1"]);
  });

  test("keeps what is refused, says why, and sends the rest", async () => {
    const { box, sent, last } = await outbox({ status: 422, json: { errors: { events: ["There are no notes."] } } }, { status: 201 });
    rows.set("1", parcel("1"));
    await box.add(parcel("2"));
    await settled();
    assert.deepEqual([sent, [...rows.keys()]], [["2"], ["1"]]);
    assert.deepEqual([last().waiting, last().refused.map((/** @type {Parcel} */ one) => [one.id, one.why])], [0, [["1", "There are no notes."]]]);
    await box.drop("1");
    await settled();
    assert.deepEqual([rows.size, last().refused], [0, []]);
  });

  test("stops at the first where somebody is signed out: the order stays", async () => {
    const { box, sent, last } = await outbox({ status: 401 });
    rows.set("2", parcel("2"));
    await box.add(parcel("1"));
    await settled();
    assert.deepEqual([sent, rows.size, server.asked.length, last().waiting], [[], 2, 1, 2]);
    assert.equal(server.asked[0].body.id, "1", "the earlier first");
  });

  test("waits where the server is busy, and tries again", async () => {
    for (const status of [408, 429, 500, 503]) {
      rows.clear();
      server?.end();
      const { box, sent, last } = await outbox({ status }, { status: 201 });
      await box.add(parcel("1"));
      assert.equal(last().waiting, 1, String(status));
      await later(8000);
      assert.deepEqual(sent, ["1"], String(status));
    }
  });

  test("holds up passes whose take has not arrived, and nothing else", async () => {
    const pass = parcel("2", { url: "/takes/abc-1/passes/" });
    const { box, sent } = await outbox({ status: 201 }, { status: 500 }, { status: 201 });
    rows.set("2", pass);
    rows.set("3", parcel("3", { url: "/takes/abc-1/passes/" }));
    rows.set("4", parcel("4", { url: "/takes/def-2/passes/" }));
    await box.add(parcel("1"));
    await settled();
    assert.deepEqual([sent, [...rows.keys()].sort()], [["1", "4"], ["2", "3"]]);
    assert.equal(server.asked.filter(({ body }) => body.id === "3").length, 0, "it is not even tried before the one ahead of it");
  });

  test("sends nothing of somebody else who used this browser", async () => {
    const { box, sent } = await outbox({ status: 201 });
    rows.set("1", parcel("1", { user: "8" }));
    await box.add(parcel("2"));
    assert.deepEqual([sent, [...rows.keys()]], [["2"], ["1"]]);
  });

  test("leaves alone what another page records now, and sends it once that page is gone", async () => {
    const { box, sent } = await outbox({ status: 201 });
    await box.keep(parcel("1"));
    await box.send();
    assert.deepEqual([sent, rows.size], [[], 1]);
    await later(5000);
    await box.keep(parcel("1"));
    await later(3000);
    assert.deepEqual(sent, [], "it was written on three seconds ago");
    await later(8000);
    assert.deepEqual([sent, rows.size], [["1"], 0]);
  });

  test("sends a take at once that was kept a moment ago", async () => {
    const { box, sent } = await outbox({ status: 201 });
    await box.keep(parcel("1"));
    await box.add({ ...parcel("1"), recordingAt: Date.now() });
    await settled();
    assert.deepEqual(sent, ["1"]);
  });

  test("sends one after the other, however often it is asked to", async () => {
    let open = 0;
    let most = 0;
    const { box, sent } = await outbox({ status: 201 });
    const own = globalThis.fetch;
    globalThis.fetch = /** @type {any} */ (async (/** @type {any[]} */ ...all) => {
      most = Math.max(most, ++open);
      await Promise.resolve();
      open -= 1;
      return /** @type {any} */ (own)(...all);
    });
    await Promise.all(["1", "2", "3"].map((id) => box.add(parcel(id))));
    await settled();
    globalThis.fetch = own;
    assert.deepEqual([most, sent.sort()], [1, ["1", "2", "3"]]);
  });
});
