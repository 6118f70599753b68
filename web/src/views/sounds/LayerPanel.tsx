// The numbers of a layer, whatever makes its sound.
import { useState } from "react";
import type { Info, Layer, Schemas, Voice } from "../../api/client";
import { hue } from "../../parts/family";
import { noteText } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { layerAt } from "../../state/numbers";
import { useProject } from "../../state/project";
import { Rows } from "./Rows";

export const layerHints: Record<string, string> = {
  start_ms: "Later than the hit",
  pan: "Left is negative",
  above_hz:
    "Plays only above this frequency. A second layer that plays only below it completes a flat crossover.",
  below_hz: "Owns what lies below: with another layer only above it, they add up flat",
  velocity_from: "Silent below this velocity",
  velocity_to: "Silent above this velocity",
  velocity_fade: "How wide it fades at its velocity bounds",
  turn: "On every hit, or in turns with other layers",
  "recording.skip_ms": "Leaves out its start",
  "recording.decay_ms": "Fades by 60 dB in this time; 0 leaves it alone",
  "recording.length_ms": "How much of it is heard; 0 is all",
  "recording.keep_length": "Pitch changes the pitch alone",
  "recording.gate": "Silences quiet passages, such as reverb tails in a loop",
};

const gateID = /^recording\.gate_/;

const cuts = [
  [
    "timing",
    "Cut and place as played",
    "Its hits on the lanes of the new voices, as far from the grid as they fell",
  ],
  ["pattern", "Cut and place on the grid", "Its hits on the lanes of the new voices"],
  ["", "Cut only", "The lanes stay empty"],
] as const;

export function LayerPanel({
  voice,
  layer: l,
  info,
  drawn,
}: {
  voice: Voice;
  layer: Layer;
  info: Info;
  drawn: Schemas["LayerSound"] | undefined;
}) {
  const edit = useProject((p) => p.edit);
  const tidy = useProject((p) => p.tidyLayer);
  const slice = useProject((p) => p.sliceLayer);
  const [cutting, setCutting] = useState(false);
  const at = layerAt(voice.id, l.id);
  const own = info.tables.layer.filter(
    (p) =>
      p.scale !== "switch" &&
      (p.id !== "turn_every" || l.turn === 3) &&
      (p.id !== "turn_chance_percent" || l.turn === 4),
  );
  return (
    <section aria-label="Layer">
      <h2 className="text-lg">Layer {l.name}</h2>
      <Rows rows={own} at={at} of={l} hints={layerHints} />
      {l.recording && (
        <>
          <div className="mt-2 flex items-center border-t border-line pt-1">
            <h3 className="grow text-sm">Recording</h3>
            <button
              type="button"
              className="press h-7 px-2 text-xs"
              title="Leaves out silence, brings its peak to −1 dBFS, notes its pitch"
              onClick={() => void tidy(voice.id, l.id)}
            >
              Trim and level
            </button>
            <Menu
              label={cutting ? "Listening…" : "Slice into voices"}
              title="Listens to the loop and makes a voice of each family in it, its hits in turn"
              right
              items={cuts.map(([place, text, hint]) => ({
                text,
                hint,
                disabled: cutting,
                onClick: () => {
                  setCutting(true);
                  void slice(voice.id, l.id, place).finally(() => setCutting(false));
                },
              }))}
            />
          </div>
          {drawn?.wave && (
            <Waves kept={drawn.wave.points} open={drawn.open?.points ?? null} colour={hue(voice.family)} />
          )}
          {l.recording.root_hz > 0 && (
            <p className="text-xs text-muted">
              its own pitch: <span className="num">{noteText(l.recording.root_hz)}</span>
            </p>
          )}
          <Rows
            rows={info.tables.recording.filter((p) => l.recording?.gate || !gateID.test(p.id))}
            at={at}
            of={l}
            hints={layerHints}
          />
        </>
      )}
      {l.rumble && (
        <>
          <h3 className="mt-2 border-t border-line pt-1 text-sm">Rumble</h3>
          <Rows rows={info.tables.rumble} at={at} of={l} />
        </>
      )}
      {!l.rumble && (
        <>
          <h3 className="mt-2 border-t border-line pt-1 text-sm">Attack</h3>
          {l.attack ? (
            <>
              <Rows rows={info.tables.attack} at={at} of={l} />
              <button
                type="button"
                className="press mt-1"
                onClick={() => edit([{ op: "layer.attack", voice: voice.id, layer: l.id, blob: "" }])}
              >
                Original attack
              </button>
            </>
          ) : (
            <BorrowAttack voice={voice} layer={l} />
          )}
        </>
      )}
    </section>
  );
}

/** The start of another voice's sound in place of the layer's own. */
function BorrowAttack({ voice, layer }: { voice: Voice; layer: Layer }) {
  const voices = useProject((p) => p.state?.document.kit.voices) ?? [];
  const borrow = useProject((p) => p.borrowAttack);
  return (
    <label className="flex items-center gap-2 py-1 text-sm">
      <span className="grow">Borrow from</span>
      <select
        className="press h-7 max-w-[150px] px-1.5 text-sm"
        aria-label="Borrow the attack of"
        value=""
        onChange={(e) => void borrow(voice.id, layer.id, e.target.value)}
      >
        <option value="">its own</option>
        {voices
          .filter((v) => v.id !== voice.id)
          .map((v) => (
            <option key={v.id} value={v.id}>
              {v.name}
            </option>
          ))}
      </select>
    </label>
  );
}

/** A recording as it is heard, over what its gate cuts away. */
function Waves({ kept, open, colour }: { kept: number[][]; open: number[][] | null; colour: string }) {
  const all = open ?? kept;
  const peak = Math.max(...all.map((p) => Math.max(Math.abs(p[0] ?? 0), Math.abs(p[1] ?? 0))), 1e-6);
  const y = (v: number) => 28 - (v / peak) * 26;
  const shape = (points: number[][]) =>
    [
      ...points.map((p, i) => `${i},${y(p[1] ?? 0).toFixed(1)}`),
      ...points.map((p, i) => `${i},${(y(p[0] ?? 0) + 0.6).toFixed(1)}`).reverse(),
    ].join(" ");
  return (
    <svg
      viewBox={`0 0 ${Math.max(all.length, 1)} 56`}
      preserveAspectRatio="none"
      className="my-1 h-14 w-full rounded border border-line bg-base-100"
      role="img"
      aria-label={open ? "The recording, and behind it what the gate cuts" : "The recording"}
    >
      {open && <polygon points={shape(open)} fill="var(--line-strong)" opacity={0.45} />}
      <polygon points={shape(kept)} fill={colour} />
    </svg>
  );
}
