import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { Info, Layer, Voice, VoiceSound } from "../../api/client";
import { Layers } from "./Layers";

const draw = (node: ReactNode) =>
  renderToStaticMarkup(<QueryClientProvider client={new QueryClient()}>{node}</QueryClientProvider>);

const layer = (id: string, more: Partial<Layer> = {}): Layer => ({
  id,
  name: `rim ${id}`,
  level_db: -6,
  pan: 0,
  pitch_st: 0,
  start_ms: 0,
  low_cut_hz: 20,
  high_cut_hz: 20000,
  above_hz: 20,
  below_hz: 20000,
  velocity_from: 1,
  velocity_to: 127,
  velocity_fade: 0,
  flip: false,
  mute: false,
  recipe: null,
  recording: { blob: "x", skip_ms: 12, decay_ms: 0, fade_in_ms: 0, fade_out_ms: 0, reverse: false },
  ...more,
});

const param = (id: string, label: string, unit: string) => ({
  id,
  part: "",
  label,
  unit,
  min: 0,
  max: 500,
  default: 0,
  scale: "linear",
});

const info = {
  limits: { layers: 8 },
  tables: {
    layer: [param("level_db", "Level", "dB"), { ...param("flip", "Flip", ""), scale: "switch" }],
    recording: [
      param("recording.skip_ms", "Skip", "ms"),
      { ...param("recording.reverse", "Reverse", ""), scale: "switch" },
    ],
  },
} as unknown as Info;

const voice = (layers: Layer[]) =>
  ({ id: "snare", name: "Snare", family: "snare", layers }) as unknown as Voice;

const wave = { from_s: 0, to_s: 0.15, points: [[-1, 1]] };
const curves = { pitch: [], drive: [], level: [{ part: "body", points: [[0, 0]] }] };
const sound = {
  layers: [
    { id: "a", span_ms: 150, wave, curves: null },
    { id: "drum", span_ms: 400, wave: null, curves },
  ],
} as unknown as VoiceSound;

const render = (layers: Layer[], chosen?: string, isFetching = false) =>
  draw(
    <Layers
      voice={voice(layers)}
      chosen={layers.find((l) => l.id === chosen)}
      onChoose={() => undefined}
      sound={sound}
      isFetching={isFetching}
      info={info}
    />,
  );

const drum = layer("drum", { recording: null, recipe: {} as NonNullable<Layer["recipe"]> });

test("one layer: what more there could be and how it comes", () => {
  const html = render([drum], "drum");
  expect(html).toContain("drop a one-shot here");
  expect(html).toContain("synthesized");
  expect(html, "a recipe has no start to skip").not.toContain("Skip");
});

test("the chosen layer has its numbers, and a sound that is missing is told", () => {
  const html = render([drum, layer("a"), layer("b")], "a");
  expect(html).toContain("rim a");
  expect(html).toContain("150 ms");
  expect(html.match(/>Level</g)).toHaveLength(1);
  expect(html.match(/>Skip</g)).toHaveLength(1);
  expect(html.match(/>Flip</g), "a switch is a button").toHaveLength(3);
  expect(html.match(/>Reverse</g), "of recordings alone").toHaveLength(2);
  expect(html.match(/its sound is missing/g)).toHaveLength(1);
  expect(render([layer("b")], "b", true), "not while it is being drawn").not.toContain(
    "its sound is missing",
  );
});

test("muted and flipped layers say so; eight are enough", () => {
  const html = render([
    layer("a", { mute: true, flip: true }),
    ...["b", "c", "d", "e", "f", "g", "h"].map((id) => layer(id)),
  ]);
  expect(html).toContain("Unmute rim a");
  expect(html).toContain("Mute rim b");
  expect(html.match(/aria-pressed="true"/g)).toHaveLength(2);
  expect(html).toMatch(/<button[^>]*disabled=""[^>]*>(?:(?!<\/button>).)*Add a one-shot/);
});
