import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { renderToStaticMarkup } from "react-dom/server";
import { expect, test } from "vitest";
import type { Info, Schemas, Voice, VoiceSound } from "../../api/client";
import { Layers } from "./Layers";

const draw = (node: ReactNode) =>
  renderToStaticMarkup(<QueryClientProvider client={new QueryClient()}>{node}</QueryClientProvider>);

const layer = (id: string, more: Partial<Schemas["Layer"]> = {}): Schemas["Layer"] => ({
  id,
  name: `rim ${id}`,
  blob: "x",
  level_db: -6,
  pitch_st: 0,
  delay_ms: 0,
  decay_ms: 0,
  low_cut_hz: 20,
  high_cut_hz: 20000,
  flip: false,
  mute: false,
  ...more,
});

const info = {
  layer_params: [
    { id: "level_db", name: "Level", unit: "dB", min: -48, max: 12, reset: 0 },
    { id: "low_cut_hz", name: "Low cut", unit: "Hz", min: 20, max: 8000, reset: 20 },
  ],
} as unknown as Info;

const voice = (layers: Schemas["Layer"][], synth_off = false) =>
  ({ id: "snare", name: "Snare", family: "snare", layers, synth_off }) as unknown as Voice;

const wave = { from_s: 0, to_s: 0.15, points: [[-1, 1]] };
const sound = { layers: [{ id: "a", span_ms: 150, wave }] } as unknown as VoiceSound;

test("no layers yet: what they are and how they come", () => {
  const html = draw(<Layers voice={voice([])} sound={sound} isFetching={false} info={info} />);
  expect(html).toContain("drop a one-shot here");
  expect(html).toContain('checked=""');
  expect(draw(<Layers voice={voice([], true)} sound={sound} isFetching={false} info={info} />)).not.toContain(
    'checked=""',
  );
});

test("each layer has its numbers, and a sound that is missing is told", () => {
  const html = draw(
    <Layers voice={voice([layer("a"), layer("b")])} sound={sound} isFetching={false} info={info} />,
  );
  expect(html).toContain("rim a");
  expect(html).toContain("150 ms");
  expect(html.match(/Low cut/g)?.length).toBeGreaterThanOrEqual(2);
  expect(html.match(/its sound is missing/g)).toHaveLength(1);
  const waiting = draw(
    <Layers voice={voice([layer("a"), layer("b")])} sound={sound} isFetching={true} info={info} />,
  );
  expect(waiting, "not while it is being drawn").not.toContain("its sound is missing");
});

test("muted and flipped layers say so; four are enough", () => {
  const html = draw(
    <Layers
      voice={voice([layer("a", { mute: true, flip: true }), layer("b"), layer("c"), layer("d")])}
      sound={sound}
      isFetching={false}
      info={info}
    />,
  );
  expect(html).toContain("Unmute rim a");
  expect(html).toContain("Mute rim b");
  expect(html.match(/aria-pressed="true"/g)).toHaveLength(2);
  expect(html).toMatch(/<button[^>]*disabled=""[^>]*>.*Add a one-shot/);
});
