import "./globals.js";
import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { deliver, deliveryOf, takeOf } from "../../src/oido/stand/static/stand/js/delivery.js";
import { midiFile } from "../../src/oido/stand/static/stand/js/midi_file.js";

/** @param {string} id @param {string} url @returns {any} */
const parcel = (id, url = "/stand/1/takes/") => ({ id, url, user: "1", body: {} });

describe("what an answer means for a parcel", () => {
  const outcomes = { 201: "sent", 400: "refused", 401: "halted", 403: "refused", 404: "refused", 408: "waiting", 409: "refused", 413: "refused", 422: "refused", 429: "waiting", 500: "waiting", 502: "waiting", 503: "waiting" };
  for (const [status, outcome] of Object.entries(outcomes)) {
    test(`${status} is ${outcome}`, () => {
      const delivery = deliveryOf(Number(status), []);
      assert.equal(delivery.outcome, outcome);
      assert.equal(delivery.why === "", outcome === "sent", "who waits is told why");
    });
  }
  test("the server's own reason goes first", () => {
    assert.equal(deliveryOf(422, ["A.", "B."]).why, "A. B.");
    assert.deepEqual(deliveryOf(507, ["No room."]), { outcome: "waiting", why: "No room." });
  });
});

describe("parcels", () => {
  const sendBy = (/** @type {Record<string, number>} */ status) => {
    /** @type {string[]} */
    const tried = [];
    return { tried, send: async (/** @type {Parcel} */ { id }) => (tried.push(id), deliveryOf(status[id] ?? 201, [])) };
  };

  test("one that is refused, or that the server stumbles over, holds up no other", async () => {
    const { tried, send } = sendBy({ a: 404, b: 400, c: 500 });
    const { refused, why } = await deliver([parcel("a"), parcel("b"), parcel("c"), parcel("d")], send);
    assert.deepEqual(tried, ["a", "b", "c", "d"]);
    assert.deepEqual(refused.map(({ id }) => id), ["a", "b"]);
    assert.match(why, /500/);
  });

  test("nobody is asked again while the network is away", async () => {
    const { tried, send } = sendBy({ a: 401 });
    await deliver([parcel("a"), parcel("b")], send);
    assert.deepEqual(tried, ["a"]);
  });

  test("a pass waits for its take, and is refused with it", async () => {
    const [take, other] = ["0a-1", "0b-2"];
    const passes = [parcel("p", `/takes/${take}/passes/`), parcel("q", `/takes/${other}/passes/`)];
    assert.deepEqual(passes.map(takeOf), [take, other]);
    const waiting = sendBy({ [take]: 503 });
    assert.deepEqual((await deliver([parcel(take), parcel(other), ...passes], waiting.send)).refused, []);
    assert.deepEqual(waiting.tried, [take, other, "q"]);
    const refused = sendBy({ [take]: 404 });
    assert.deepEqual((await deliver([parcel(take), ...passes], refused.send)).refused.map(({ id }) => id), [take, "p"]);
  });
});

test("a recording as a MIDI file: the bytes of a track in milliseconds", () => {
  const bytes = midiFile([[300, 0x80, 60, 64], [-5, 0x90, 60, 100], [0, 0xc0, 4, 0]]);
  const track = [0x00, 0xff, 0x51, 0x03, 0x0f, 0x42, 0x40, 0x00, 0x90, 60, 100, 0x05, 0xc0, 4, 0x82, 0x2c, 0x80, 60, 64, 0x00, 0xff, 0x2f, 0x00];
  assert.deepEqual([...bytes.slice(0, 14)], [0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 0, 0, 1, 0x03, 0xe8]);
  assert.deepEqual([...bytes.slice(14)], [0x4d, 0x54, 0x72, 0x6b, 0, 0, 0, track.length, ...track]);
});
