/** Sounds in the order of need: small ones first, unpacked while it is quiet or somebody waits, simple ones meanwhile. */
import "./globals.js";
import "./no_page.js";
import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { Bank } from "../../src/oido/common/static/common/js/bank.js";
import { CHANNEL_LIVE, CHANNEL_PART, KIT, Sound, channelOf } from "../../src/oido/common/static/common/js/sound.js";

/** @type {SoundAddresses} */
const ADDRESSES = { worklet: "synth", sounds: { 0: { first: "first-0", full: "full-0" }, 4: { first: "full-4", full: "full-4" }, kit: { first: "first-kit", full: "full-kit" } } };
const SAMPLES = 2;

/** A bank whose worklet answers at once, and what it was asked for. @param {(url: string) => boolean} [isThere] */
function bank(isThere = () => true) {
  const done = /** @type {string[]} */ ([]);
  const made = new Bank(ADDRESSES, () => done.push("sound"));
  /** @type {Map<string, number>} */
  const packed = new Map();
  const port = {
    postMessage: (/** @type {any} */ { type, name }) => {
      packed.set(name, type === "bank" ? SAMPLES : (packed.get(name) ?? 0) - 1);
      queueMicrotask(() => made.answered({ type: "left", left: packed.get(name) }));
    },
  };
  made.read = async (url) => {
    done.push(url);
    if (!isThere(url)) throw new Error("404");
    return new ArrayBuffer(1);
  };
  made.node = /** @type {any} */ ({ port });
  return { made, done };
}

const soon = () => new Promise((resolve) => setTimeout(resolve, 20));

describe("sounds", () => {
  test("come first in small versions, and a small sound once", async () => {
    const { made, done } = bank();
    made.request("0");
    made.request("4");
    made.request("0");
    await soon();
    assert.deepEqual(done.filter((what) => what !== "sound"), ["first-0", "full-4", "full-0"]);
    assert.deepEqual([...made.loaded], [["0", "full"], ["4", "first"]]);
  });

  test("are unpacked while it is quiet, or if somebody waits for them; a small one does not wait for a large one", async () => {
    const { made } = bank();
    made.isQuiet = () => made.isEmpty;
    made.request("0");
    await soon();
    assert.deepEqual([...made.loaded], [["0", "first"]], "the full one has not been unpacked: it is not quiet");
    await made.require(["kit"]);
    assert.equal(made.loaded.get("kit"), "first");
    made.mayUnpack = () => false;
    await made.require(["4"]);
    assert.equal(made.has("4"), false, "nothing is unpacked now, and nobody waits in vain");
    made.isQuiet = () => true;
    await new Promise((resolve) => setTimeout(resolve, 250));
    assert.deepEqual([made.loaded.get("0"), made.loaded.get("kit"), made.has("4")], ["full", "full", true]);
  });

  test("that cannot be loaded are tried again when somebody waits for them", async () => {
    let isThere = false;
    let troubles = 0;
    const { made } = bank(() => isThere);
    made.onTrouble = () => (troubles += 1);
    await made.require(["kit"]);
    assert.deepEqual([made.has("kit"), troubles > 0], [false, true]);
    isThere = true;
    await made.require(["kit"]);
    assert.equal(made.has("kit"), true);
  });

  test("sound simply until they are there, each by itself", () => {
    const sound = new Sound({ addresses: ADDRESSES, context: /** @type {any} */ ({ currentTime: 0 }) });
    const [simple, sent] = [/** @type {any[]} */ ([]), /** @type {any[]} */ ([])];
    sound.simple.play = (events) => simple.push(...events);
    sound.send = (events) => sent.push(...events);
    sound.bank.loaded.set("0", "first");
    const [live, part, kit] = [CHANNEL_LIVE, CHANNEL_PART, channelOf(CHANNEL_LIVE, true)];
    sound.play([[0, 0x90 | live, 60, 80], [0, 0x90 | part, 62, 80], [0, 0x90 | kit, 36, 80]]);
    assert.deepEqual([sent.map(([, , pitch]) => pitch), simple.map(([, , pitch]) => pitch)], [[60], [62, 36]]);
    assert.deepEqual([...sound.bank.requested], ["4", KIT]);
    sound.play([[1, 0x80 | part, 62, 0], [1, 0x90 | live, 60, 0]]);
    assert.deepEqual([sent.length, simple.length], [3, 4], "where a note ends is known to both");
  });
});
