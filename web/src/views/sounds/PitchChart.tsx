import { clamp, noteText, num } from "../../parts/format";
import { layerAt, setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { Chart, type Handle } from "./Chart";
import { axesOf, type Drawn, outline, type Place, points, type Time } from "./chartAxes";
import { addPoint, curveHandles } from "./curve";
import { type Curve, drivenBy, partColour, type Recipe } from "./parts";

export function usePlace(place: Place) {
  const edit = useProject((p) => p.edit);
  const at = layerAt(place.voice, place.layer);
  return {
    edit,
    set: (id: string, value: number, gesture: string) => edit([setNumber(`${at}/${id}`, value)], gesture),
    curve: (curve: Curve, gesture: string) => edit([{ op: "curve.set", ...place, curve }], gesture),
  };
}

export function Pitch({
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
          style={{ fill: "var(--color-base-content)", fontSize: "var(--text-xs)" }}
        >
          settles at {num(settled)} Hz, {noteText(settled)}
        </text>
      )}
    </Chart>
  );
}
