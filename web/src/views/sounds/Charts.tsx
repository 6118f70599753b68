// The voice's wave, and over the same time what the chosen layer does: pitch,
// level by part, and each of its own curves.
import { useMemo } from "react";
import type { Layer, Voice, VoiceSound } from "../../api/client";
import { labelWidth, right } from "./Chart";
import { CurveRow } from "./CurveRow";
import { none, Ruler, type Time } from "./chartAxes";
import { Levels } from "./LevelChart";
import { Pitch } from "./PitchChart";
import { type Curve, partIDs, type Recipe } from "./parts";
import { Wave } from "./WaveChart";

export function Charts({
  voice,
  layer,
  sound,
  width,
}: {
  voice: Voice;
  layer: Layer | undefined;
  sound: VoiceSound;
  width: number;
}) {
  const recipe = layer?.recipe ?? null;
  const curves = sound.layers.find((l) => l.id === layer?.id)?.curves ?? none;
  const inner = width - labelWidth - right;
  const span = sound.span_ms;
  const time: Time = useMemo(
    () => ({ span, inner, x: (ms) => (ms / span) * inner, ms: (x) => (x / inner) * span }),
    [span, inner],
  );
  const place = { voice: voice.id, layer: layer?.id ?? "" };
  return (
    <>
      <Ruler time={time} width={width} beat={sound.beat_ms} />
      <div className="flex flex-col gap-1">
        <Wave voice={voice} sound={sound} time={time} width={width} />
        {recipe && layer && (
          <>
            <Pitch
              place={place}
              recipe={recipe}
              lines={curves.pitch}
              time={time}
              width={width}
              beat={sound.beat_ms}
              target={sound.target?.measures.pitch_curve ?? []}
            />
            <Levels
              place={place}
              recipe={recipe}
              lines={curves.level}
              sound={sound}
              time={time}
              width={width}
            />
            {recipe.curves
              .filter((c) => !onCharts(recipe, c))
              .map((c) => (
                <CurveRow
                  key={c.id}
                  place={place}
                  recipe={recipe}
                  curve={c}
                  points={curves.own.find((o) => o.part === c.id)?.points ?? []}
                  time={time}
                  width={width}
                  beat={sound.beat_ms}
                />
              ))}
          </>
        )}
      </div>
    </>
  );
}

/** Whether a curve is drawn by the charts of pitch and level and drives nothing else. */
function onCharts(r: Recipe, c: Curve): boolean {
  const modulations = r.modulations.filter((m) => m.by === c.id);
  return (
    modulations.length === 1 &&
    modulations.every((m) => m.at === "body.end_hz" || partIDs.some((p) => m.at === `${p}.level_db`)) &&
    c.round < 0
  );
}
