import "./globals.js";
import assert from "node:assert/strict";
import { describe, mock, test } from "node:test";

describe("signed out in mid-work", () => {
  test("a refused request waits, and is sent again with a token of now", async () => {
    const clicks = [];
    globalThis.document = /** @type {any} */ ({ cookie: "csrftoken=old", addEventListener: (name, act) => name === "click" && clicks.push(act), getElementById: () => null });
    globalThis.FormData ??= class {};
    const { ask, csrfToken } = await import("../../src/oido/common/static/common/js/signed_out.js");
    const answers = [{ status: 401 }, { status: 200, ok: true }];
    const fetched = mock.fn(async () => answers.shift());
    globalThis.fetch = fetched;
    const asked = ask("/stand/1/loops/", { method: "POST", body: "{}" });
    await new Promise((resolve) => setTimeout(resolve, 5));
    assert.equal(fetched.mock.callCount(), 1, "it waits");
    document.cookie = "a=b; csrftoken=new";
    assert.equal(csrfToken(), "new");
    clicks[0]({ target: { closest: (/** @type {string} */ what) => what === "[data-go-on]" } });
    assert.equal((await asked).status, 200);
    assert.equal(fetched.mock.calls[1].arguments[1].headers["X-CSRFToken"], "new");
  });
});
