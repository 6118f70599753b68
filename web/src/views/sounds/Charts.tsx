// The voice's wave, and over the same time what the chosen layer does: pitch,
// level by part, and each of its own curves.
import { useMemo } from "react";
import type { Layer, Schemas, Voice, VoiceSound } from "../../api/client";
import { hue } from "../../parts/family";
import { clamp, noteText, num } from "../../parts/format";
import { layerAt, setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { Chart, type Handle, type Line, labelWidth, right } from "./Chart";
import { CurveRow } from "./CurveRow";
import { type Axes, addPoint, curveHandles } from "./curve";
import { type Curve, drivenBy, type PartID, partColour, partHints, partIDs, type Recipe } from "./parts";

const floorDB = -60;
const none: Schemas["Curves"] = { pitch: [], level: [], own: [] };

export interface Time {
  /** ms across the chart. */
  span: number;
  inner: number;
  x: (ms: number) => number;
  ms: (x: number) => number;
}

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
  const moves = r.moves.filter((m) => m.by === c.id);
  return (
    moves.length === 1 &&
    moves.every((m) => m.at === "body.end_hz" || partIDs.some((p) => m.at === `${p}.level_db`)) &&
    c.round < 0
  );
}

/** The axes of a curve that drives a number of a chart. */
export function axesOf(
  c: Curve,
  time: Time,
  beat: number,
  y: (v: number) => number,
  value: (y: number) => number,
): Axes {
  const scale = c.unit === "beats" ? beat : 1;
  return { x: (at) => time.x(at * scale), at: (x) => time.ms(x) / scale, y, value };
}

function Ruler({ time, width, beat }: { time: Time; width: number; beat: number }) {
  const unit = useShaping((s) => s.unit);
  const marks: [number, string][] = [];
  if (unit === "ms") {
    for (let i = 0; i <= 4; i++)
      marks.push([(time.span / 4) * i, `${num((time.span / 4) * i, time.span < 100 ? 1 : 0)} ms`]);
  } else {
    const step = [1 / 16, 1 / 8, 1 / 4, 1 / 2, 1, 2, 4].find((s) => time.span / beat / s <= 9) ?? 8;
    for (let b = 0; b * beat <= time.span; b += step) marks.push([b * beat, fraction(b)]);
  }
  return (
    <svg width={width} height={20} aria-hidden="true">
      {marks.map(([ms, text], i) => (
        <g key={text}>
          <line
            x1={labelWidth + time.x(ms)}
            x2={labelWidth + time.x(ms)}
            y1={14}
            y2={20}
            stroke="var(--line-strong)"
          />
          <text
            x={labelWidth + time.x(ms)}
            y={11}
            textAnchor={i === 0 ? "start" : time.x(ms) > time.inner - 30 ? "end" : "middle"}
          >
            {text}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** Beats as people write them: 3/16, 1 1/2. */
function fraction(beats: number): string {
  const whole = Math.floor(beats);
  const part = beats - whole;
  if (part === 0) return `${whole} ${whole === 1 ? "beat" : "beats"}`;
  let over = 16;
  let up = Math.round(part * 16);
  while (up % 2 === 0) {
    up /= 2;
    over /= 2;
  }
  return `${whole > 0 ? `${whole} ` : ""}${up}/${over}`;
}

function Wave({ voice, sound, time, width }: { voice: Voice; sound: VoiceSound; time: Time; width: number }) {
  const height = 88;
  const shape = (points: number[][], spanMS: number) => {
    const peak = Math.max(...points.map((p) => Math.max(Math.abs(p[0] ?? 0), Math.abs(p[1] ?? 0))), 1e-6);
    const y = (s: number) => height / 2 - (s / peak) * (height / 2 - 6);
    const x = (i: number) => time.x((i / points.length) * spanMS);
    const inside = points.filter((_, i) => (i / points.length) * spanMS <= time.span);
    return [
      ...inside.map((p, i) => `${x(i).toFixed(1)},${y(p[1] ?? 0).toFixed(1)}`),
      ...inside.map((p, i) => `${x(i).toFixed(1)},${(y(p[0] ?? 0) + 0.8).toFixed(1)}`).reverse(),
    ].join(" ");
  };
  const aim = sound.target;
  return (
    <Chart
      title="Wave"
      sub={aim ? <span className="text-ref">outlined: the target</span> : "one hit"}
      width={width}
      height={height}
      ticks={[]}
      lines={[]}
      handles={[]}
    >
      <line x1={0} x2={time.inner} y1={height / 2} y2={height / 2} stroke="var(--line)" />
      <polygon points={shape(sound.wave.points, time.span)} fill={hue(voice.family)} />
      {aim && (
        <polygon
          points={shape(aim.wave.points, (aim.wave.to_s - aim.wave.from_s) * 1000)}
          fill="none"
          stroke="var(--ref)"
          strokeDasharray="3 2"
        />
      )}
    </Chart>
  );
}

const points = (c: number[][], time: Time, y: (v: number) => number) =>
  c.map((p) => [time.x(p[0] ?? 0), y(p[1] ?? 0)] as [number, number]);

/** What the target does, dashed behind the lines of mine. */
const outline = (target: number[][], time: Time, y: (v: number) => number): Line[] =>
  target.length > 1
    ? [
        {
          id: "target",
          colour: "var(--ref)",
          dashed: true,
          points: points(
            target.filter((p) => (p[0] ?? 0) <= time.span),
            time,
            y,
          ),
        },
      ]
    : [];

/** The levels of a target over time, by its wave: ms, dB under its peak. */
function levelsOf(aim: VoiceSound["target"]): number[][] {
  if (!aim) return [];
  const loud = aim.wave.points.map((p) => Math.max(Math.abs(p[0] ?? 0), Math.abs(p[1] ?? 0)));
  const peak = Math.max(...loud, 1e-6);
  const ms = ((aim.wave.to_s - aim.wave.from_s) * 1000) / Math.max(loud.length, 1);
  return loud.map((v, i) => [i * ms, 20 * Math.log10(Math.max(v / peak, 1e-5))]);
}

type Drawn = Schemas["Curves"]["pitch"];
type Place = { voice: string; layer: string };

function usePlace(place: Place) {
  const edit = useProject((p) => p.edit);
  const at = layerAt(place.voice, place.layer);
  return {
    edit,
    set: (id: string, value: number, gesture: string) => edit([setNumber(`${at}/${id}`, value)], gesture),
    curve: (curve: Curve, gesture: string) => edit([{ op: "curve.set", ...place, curve }], gesture),
  };
}

function Pitch({
  place,
  recipe,
  lines,
  time,
  width,
  beat,
  target,
}: {
  place: Place;
  recipe: Recipe;
  lines: Drawn;
  time: Time;
  width: number;
  beat: number;
  /** The target's pitch: ms, Hz. */
  target: number[][];
}) {
  const { edit, set, curve: setCurve } = usePlace(place);
  const item = useShaping((s) => s.item);
  const height = 122;
  if (lines.length === 0) return null;
  const all = [...lines, { points: target }].flatMap((l) => l.points.map((p) => p[1] ?? 20));
  const driven = drivenBy(recipe, "body.end_hz");
  const ends = driven ? [driven.from, driven.to] : [];
  const lowHz = Math.min(...all, ...ends) / 1.35;
  const highHz = Math.max(...all, ...ends) * 1.25;
  const room = height - 26;
  const y = (hz: number) =>
    height - 13 - (Math.log(clamp(hz, lowHz, highHz) / lowHz) / Math.log(highHz / lowHz)) * room;
  const hz = (py: number) => lowHz * (highHz / lowHz) ** ((height - 13 - py) / room);
  const octaves = Array.from({ length: 12 }, (_, i) => 16.3516 * 2 ** i).filter(
    (f) => f > lowHz && f < highHz,
  );
  const body = lines.find((l) => l.part === "body");
  const { start_hz: start, end_hz: end, fall_ms: fall } = recipe.body;
  const handles: Handle[] = [];
  const curve = driven && recipe.curves.find((c) => c.id === driven.by);
  if (body && curve && driven) {
    const span = Math.log(driven.from / driven.to);
    const axes = axesOf(
      curve,
      time,
      beat,
      (v) => y(driven.to * Math.exp(span * v)),
      (py) => Math.log(hz(py) / driven.to) / span,
    );
    handles.push(...curveHandles(curve, axes, partColour.body ?? "", setCurve));
  } else if (body) {
    const drag = (id: string, was: number) => (g: string) => set(id, was, g);
    handles.push(
      {
        id: "start",
        name: "Start pitch",
        x: 0,
        y: y(start),
        onDrag: (_x, py, g) => set("body.start_hz", hz(py), g),
        onCancel: drag("body.start_hz", start),
      },
      {
        id: "fall",
        name: "Fall time",
        x: time.x(Math.min(fall, time.span)),
        y: y(end * (start / end) ** Math.exp(-3)),
        onDrag: (x, _y, g) => set("body.fall_ms", clamp(time.ms(x), 1, time.span * 2), g),
        onCancel: drag("body.fall_ms", fall),
      },
      {
        id: "end",
        name: "End pitch",
        x: time.inner - 4,
        y: y(end),
        onDrag: (_x, py, g) => set("body.end_hz", hz(py), g),
        onCancel: drag("body.end_hz", end),
      },
    );
  }
  const settled = driven ? driven.to : end;
  return (
    <Chart
      title="Pitch"
      sub={lines.map((l) => l.part).join(", ")}
      width={width}
      height={height}
      ticks={octaves.map((f) => ({ y: y(f), text: (noteText(f).split(" ")[0] ?? "").slice(0, 4) }))}
      lines={[
        ...outline(target, time, y),
        ...lines.map((l) => ({
          id: l.part,
          colour: partColour[l.part] ?? "",
          points: points(l.points, time, y),
        })),
      ]}
      handles={item.startsWith("part:ring") ? [] : handles}
      onAdd={
        curve && driven
          ? (x, py) =>
              setCurve(
                addPoint(
                  curve,
                  time.ms(x) / (curve.unit === "beats" ? beat : 1),
                  Math.log(hz(py) / driven.to) / Math.log(driven.from / driven.to),
                ),
                "",
              )
          : body
            ? () => edit([{ op: "curve.draw", ...place, at: "body.end_hz" }])
            : undefined
      }
    >
      {body && (
        <text
          x={time.inner - 10}
          y={y(settled) - 12 < 14 ? y(settled) + 20 : y(settled) - 12}
          textAnchor="end"
          style={{ fill: "var(--color-base-content)", fontSize: 12 }}
        >
          settles at {num(settled)} Hz, {noteText(settled)}
        </text>
      )}
    </Chart>
  );
}

const attackOf: Partial<Record<PartID, true>> = { body: true, sub: true, noise: true };

function Levels({
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
