import { expect, test } from "vitest";
import type { Hit } from "../../api/client";
import cases from "../../api/strokes.gen.json";
import { strokesOf } from "./layout";

// The core writes these; its own test holds them against what sounds.
test("strokes of rolls and flams are drawn where the core plays them", () => {
  expect(cases.length).toBeGreaterThan(100);
  for (const c of cases) {
    const drawn = strokesOf(c.hit as unknown as Hit);
    expect(drawn.length, JSON.stringify(c.hit)).toBe(c.strokes.length);
    drawn.forEach((s, i) => {
      expect(s.ticks).toBe(c.strokes[i]?.ticks);
      expect(s.early).toBeCloseTo(c.strokes[i]?.early ?? -1, 9);
      expect(s.velocity).toBeCloseTo(c.strokes[i]?.velocity ?? -1, 6);
    });
  }
});
