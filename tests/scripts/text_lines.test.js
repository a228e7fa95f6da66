import assert from "node:assert/strict";
import { describe, test } from "node:test";
import { rewritten } from "../../src/oido/bench/static/bench/js/text_lines.js";

describe("the part as text, written while it becomes another", () => {
  const was = "1: C4\n2: D4\n3: E4";

  test("lines that were left alone are those of now, others stay as they are written", () => {
    assert.equal(rewritten("1: C4\n2: G4\n3: E4", was, "1: A4\n2: B4\n3: E4"), "1: A4\n2: G4\n3: E4");
    assert.equal(rewritten(was, was, "1: A4"), "1: A4", "bars that are gone");
    assert.equal(rewritten("1: C5\n2: D4", was, "1: C4\n2: F4\n3: E4"), "1: C5\n2: F4", "a line taken out stays out");
  });

  test("a line without a number is somebody's own, and a bar that has come is there", () => {
    assert.equal(rewritten("1: C4\n  E4 F4\n2: D4\n3: E4", was, "1: B3\n2: D4\n3: E4\n4: C5"), "1: B3\n  E4 F4\n2: D4\n3: E4\n4: C5");
  });

  test("takes a bar of several lines as one", () => {
    const was = "1: C4 D4\n1.. E4\n2: D4";
    assert.equal(rewritten("1: C4 D4\n1.. E4\n2: G4", was, "1: A4\n2: D4"), "1: A4\n2: G4");
    assert.equal(rewritten("1: C4 D4\n1.. F4\n2: D4", was, "1: A4\n2: B4"), "1: C4 D4\n1.. F4\n2: B4");
  });
});
