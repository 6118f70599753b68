import type { VoiceSound } from "../../api/client";
import { clamp, num } from "../../parts/format";
import { layerAt, setNumber } from "../../state/numbers";
import { useShaping } from "../../state/shaping";
import { Chart, type Handle } from "./Chart";
import { axesOf, type Drawn, floorDB, outline, type Place, points, type Time } from "./chartAxes";
import { addPoint, curveHandles } from "./curve";
import { usePlace } from "./PitchChart";
import { drivenBy, type PartID, partColour, partHints, type Recipe } from "./parts";

/** The levels of a target over time, by its wave: ms, dB under its peak. */
function levelsOf(aim: VoiceSound["target"]): number[][] {
  if (!aim) return [];
  const loud = aim.wave.points.map((p) => Math.max(Math.abs(p[0] ?? 0), Math.abs(p[1] ?? 0)));
  const peak = Math.max(...loud, 1e-6);
  const ms = ((aim.wave.to_s - aim.wave.from_s) * 1000) / Math.max(loud.length, 1);
  return loud.map((v, i) => [i * ms, 20 * Math.log10(Math.max(v / peak, 1e-5))]);
}

const attackOf: Partial<Record<PartID, true>> = { body: true, sub: true, noise: true };

export function Levels({
  place,
  recipe,
  lines,
  sound,
  time,
  width,
}: {
  place: Place;
  recipe: Recipe;
  lines: Drawn;
  sound: VoiceSound;
  time: Time;
  width: number;
}) {
  const { edit, set, curve: setCurve } = usePlace(place);
  const shaping = useShaping();
  const height = 150;
  const y = (db: number) => 12 + ((6 - clamp(db, floorDB, 6)) / (6 - floorDB)) * (height - 24);
  const db = (py: number) => 6 - ((py - 12) / (height - 24)) * (6 - floorDB);
  const chosen = shaping.item.slice(5) as PartID;
  const part = lines.some((l) => l.part === chosen) ? chosen : (lines[0]?.part as PartID | undefined);
  const handles: Handle[] = [];
  const driven = part && drivenBy(recipe, `${part}.level_db`);
  const curve = driven && recipe.curves.find((c) => c.id === driven.by);
  const axes =
    curve &&
    driven &&
    axesOf(
      curve,
      time,
      sound.beat_ms,
      (v) => y(driven.to + (driven.from - driven.to) * v),
      (py) => (db(py) - driven.to) / (driven.from - driven.to),
    );
  if (part && curve && axes) handles.push(...curveHandles(curve, axes, partColour[part] ?? "", setCurve));
  else if (part) {
    const r = recipe[part] as { level_db: number; attack_ms?: number; hold_ms?: number; decay_ms: number };
    const attack = attackOf[part] ? (r.attack_ms ?? 0) : 0;
    const peak = attack + (r.hold_ms ?? 0);
    const half = 24; // the handle for the decay sits this far down, dB
    handles.push(
      {
        id: `${part}-level`,
        name: `${part} level${attackOf[part] ? " and attack" : ""}`,
        colour: partColour[part] ?? "",
        x: time.x(attack),
        y: y(r.level_db),
        onDrag: (x, py, g) =>
          edit(
            [
              setNumber(
                `${layerAt(place.voice, place.layer)}/${part}.level_db`,
                Math.max(db(py), floorDB + 1),
              ),
              ...(attackOf[part]
                ? [
                    setNumber(
                      `${layerAt(place.voice, place.layer)}/${part}.attack_ms`,
                      clamp(time.ms(x), 0.1, 200),
                    ),
                  ]
                : []),
            ],
            g,
          ),
        onCancel: (g) =>
          edit(
            [
              setNumber(`${layerAt(place.voice, place.layer)}/${part}.level_db`, r.level_db),
              ...(attackOf[part]
                ? [setNumber(`${layerAt(place.voice, place.layer)}/${part}.attack_ms`, attack)]
                : []),
            ],
            g,
          ),
      },
      {
        id: `${part}-decay`,
        name: `${part} decay`,
        colour: partColour[part] ?? "",
        x: time.x(Math.min(peak + (r.decay_ms * half) / 60, time.span)),
        y: y(r.level_db - half),
        onDrag: (x, _y, g) => set(`${part}.decay_ms`, Math.max(((time.ms(x) - peak) * 60) / half, 5), g),
        onCancel: (g) => set(`${part}.decay_ms`, r.decay_ms, g),
      },
    );
  }
  return (
    <Chart
      title="Level"
      sub={
        <span className="flex flex-col items-start">
          {lines.map((l) => (
            <button
              key={l.part}
              type="button"
              className={`cursor-pointer font-semibold ${l.part === part ? "underline" : ""}`}
              style={{ color: partColour[l.part] }}
              title={`${partHints[l.part]}: shape it`}
              onClick={() => shaping.set({ item: `part:${l.part}` })}
            >
              {l.part}
            </button>
          ))}
        </span>
      }
      width={width}
      height={height}
      ticks={[0, -24, -48].map((v) => ({ y: y(v), text: v === 0 ? "0 dB" : `−${-v}` }))}
      lines={[
        ...outline(levelsOf(sound.target), time, y),
        ...lines.map((l) => ({
          id: l.part,
          colour: partColour[l.part] ?? "",
          points: points(l.points, time, y),
        })),
      ]}
      handles={handles}
      onAdd={
        curve && axes
          ? (x, py) => setCurve(addPoint(curve, axes.at(x), axes.value(py)), "")
          : part
            ? () => edit([{ op: "curve.draw", ...place, at: `${part}.level_db` }])
            : undefined
      }
    >
      {sound.next
        .filter((n) => n.ms < time.span)
        .map((n, i) => (
          <g key={n.ms}>
            <line
              x1={time.x(n.ms)}
              x2={time.x(n.ms)}
              y1={8}
              y2={height - 6}
              stroke="var(--muted)"
              strokeDasharray="2 3"
            />
            <text
              x={time.x(n.ms) + (time.x(n.ms) > time.inner - 150 ? -6 : 6)}
              y={20 + i * 14}
              textAnchor={time.x(n.ms) > time.inner - 150 ? "end" : "start"}
              style={{ fill: n.tail_db > -30 ? "var(--color-error)" : "var(--muted)" }}
            >
              next hit: tail {n.tail_db <= -89 ? "gone" : `${num(n.tail_db, 0)} dB`}
            </text>
          </g>
        ))}
    </Chart>
  );
}
