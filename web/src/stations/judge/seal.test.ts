import { expect, test } from "vitest";
import { grouped } from "../../marks/words";
import { byHand, sealOf } from "./seal";

const KEY = "B=full feed\nK=plain water\n";

test("a seal is what the core makes of it", () => {
  // python3 -c "import hashlib; print(hashlib.sha256(bytes(32) + b'B=full feed\nK=plain water\n').hexdigest())"
  const seal =
    "4660b5ae395026f34fd1a55627f0e8525fecb54abb27d3cc4c7b3798f302bbe1";
  expect(sealOf("00".repeat(32), KEY)).toBe(seal);
  expect(sealOf("00".repeat(32), KEY.replace("full", "half"))).not.toBe(seal);
  expect(sealOf(`01${"00".repeat(31)}`, KEY)).not.toBe(seal);
  expect(grouped(seal).split(" ")).toHaveLength(8);
});

test("the command holds the number byte by byte and the key line by line, whatever a treatment is called", () => {
  expect(byHand("0aff", "B=grower's mix\nK=50 %\n")).toBe(
    "(printf '\\x0a\\xff'; printf '%s\\n' 'B=grower'\\''s mix' 'K=50 %') | sha256sum",
  );
});
