import { expect, test } from "vitest";
import { asRatio } from "./DrumRow";

test("ratios of soft strokes in words", () => {
  expect(asRatio(0.56, "brighter", "darker")).toBe("44 % darker");
  expect(asRatio(1.2, "longer", "shorter")).toBe("20 % longer");
  expect(asRatio(1.01, "brighter", "darker")).toBe("as bright");
});
