import "./globals.js";
import assert from "node:assert/strict";
import { test } from "node:test";
import { describeFailure } from "../../src/oido/common/static/common/js/failures.js";

test("a limit says in the server's words when to try again", () => {
  assert.equal(describeFailure(429, "Try again in 3 minutes."), "Try again in 3 minutes.");
});
test("what somebody else has changed asks for the page to be loaded again", () => {
  for (const status of [403, 404]) assert.match(describeFailure(status, "<html>"), /Reload the page/);
});
test("a failure of the server gives its code, never its page", () => {
  assert.match(describeFailure(500, "<html>"), /error 500/);
  assert.doesNotMatch(describeFailure(500, "<html>"), /html/);
});
