import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { renderToStaticMarkup } from "react-dom/server";
import { expect, test, vi } from "vitest";
import type { Schemas } from "../../api/client";
import { Coming } from "./Coming";

// No element has a width here: rows are drawn once they know theirs.
vi.mock("../../parts/useWidth", () => ({ useWidth: () => [() => {}, 900] }));

const hit = (time_s: number, family: Schemas["Family"]): Schemas["HeardHit"] => ({
  id: `${family}${time_s}`,
  time_s,
  family,
  velocity: 100,
  confidence: 1,
  bar: null,
  step: null,
  offset_ms: null,
  within_ticks: 0,
  grace: false,
  key: null,
  covered: false,
  unnamed: false,
});

const soFar = (more: object) =>
  ({
    name: "Late skate",
    wave: { from_s: 0, to_s: 8, points: [[-0.5, 0.5]] },
    analysis: {
      duration_s: 8,
      hits: [],
      downbeats_s: [],
      third_octaves: [],
      tempo_bpm: null,
      facts: [],
      balance_db: null,
      ...more,
    },
  }) as unknown as Schemas["SoFar"];

function draw(more: object) {
  const client = new QueryClient();
  client.setQueryData(["info"], { families: ["kick", "snare"] });
  return renderToStaticMarkup(
    <QueryClientProvider client={client}>
      <Coming soFar={soFar(more)} />
    </QueryClientProvider>,
  );
}

test("first the wave, and what comes next", () => {
  const html = draw({});
  expect(html).toContain("Late skate");
  expect(html).toContain("Wave of the whole file");
  expect(html).toContain("Its hits come next.");
  expect(html).toContain("hits and the beat come later");
});

test("then hits by family, then the beat and its facts", () => {
  const hits = [hit(1, "kick"), hit(2, "kick"), hit(3, "snare")];
  const html = draw({ hits });
  expect(html).toContain("2 hits so far");
  expect(html).toContain("1 hit so far");
  expect(html).not.toContain("Its hits come next.");
  expect(html).toContain("the beat comes later");
  const fact = { id: "tempo", family: "", name: "Tempo", text: "92 BPM in 4/4, steady." };
  const whole = draw({ hits, tempo_bpm: 92, downbeats_s: [0, 2, 4, 6], facts: [fact] });
  expect(whole).toContain("92 BPM in 4/4, steady.");
  expect(whole.match(/<line[^>]*var\(--late\)/g), "four bar lines in three rows").toHaveLength(12);
});
