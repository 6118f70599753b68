import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { Info, Layer, Voice, VoiceSound } from "../../api/client";
import { Layers } from "./Layers";

const draw = (node: ReactNode) =>
  renderToStaticMarkup(<QueryClientProvider client={new QueryClient()}>{node}</QueryClientProvider>);

const layer = (id: string, more: Partial<Layer> = {}): Layer =>
  ({
    id,
    name: `rim ${id}`,
    level_db: -6,
    above_hz: 20,
    below_hz: 20000,
    flip: false,
    mute: false,
    solo: false,
    recipe: null,
    rumble: null,
    recording: { blob: "x", skip_ms: 12, gate: false },
    ...more,
  }) as Layer;

const info = { limits: { layers: 8 }, rumble: {} } as unknown as Info;

const voice = (layers: Layer[]) =>
  ({ id: "snare", name: "Snare", family: "snare", layers }) as unknown as Voice;

const wave = { from_s: 0, to_s: 0.15, points: [[-1, 1]] };
const curves = { pitch: [], own: [], level: [{ part: "body", points: [[0, 0]] }] };
const sound = {
  jobs: [{ layer: "a", gives: ["attack"], text: "gives attack" }],
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

test("one layer: a card, and one more can be added", () => {
  const html = render([drum], "drum");
  expect(html).toContain("recipe");
  expect(html).toContain("Add a layer");
});

test("the chosen layer is marked, jobs are shown, and a sound that is missing too", () => {
  const html = render([drum, layer("a"), layer("b")], "a");
  expect(html.match(/aria-pressed="true"[^>]*aria-label="Shape rim a"/g)).toHaveLength(1);
  expect(html).toContain("recording · −6.0 dB · gives attack");
  expect(html.match(/its sound is missing/g)).toHaveLength(1);
  expect(render([layer("b")], "b", true), "not while it is being drawn").not.toContain(
    "its sound is missing",
  );
});

test("muted, solo and flipped layers say so; eight are enough", () => {
  const html = render([
    layer("a", { mute: true, flip: true, solo: true }),
    ...["b", "c", "d", "e", "f", "g", "h"].map((id) => layer(id)),
  ]);
  expect(html).toContain("Unmute rim a");
  expect(html).toContain("Mute rim b");
  expect(html.match(/aria-pressed="true"/g)).toHaveLength(3);
  expect(html).not.toContain("Add a layer");
});
