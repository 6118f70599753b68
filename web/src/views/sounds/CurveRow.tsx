// A curve of a recipe as a row: its line, and the numbers that it drives.
import { useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { api } from "../../api/client";
import { noteText, num } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { TextBox } from "../../parts/TextBox";
import { useProject } from "../../state/project";
import { useInfo } from "../../state/queries";
import { useShaping } from "../../state/shaping";
import { Chart } from "./Chart";
import { axesOf, type Time } from "./chartAxes";
import { addPoint, curveHandles } from "./curve";
import type { Place } from "./MovedField";
import { numberOf } from "./numbers";
import type { Curve, Recipe } from "./parts";

const colour = "var(--late)";

export function CurveRow({
  place,
  recipe,
  curve: c,
  points,
  time,
  width,
  beat,
}: {
  place: Place;
  recipe: Recipe;
  curve: Curve;
  points: number[][];
  time: Time;
  width: number;
  beat: number;
}) {
  const edit = useProject((p) => p.edit);
  const notify = useProject((p) => p.notify);
  const client = useQueryClient();
  const chosen = useShaping((s) => s.item) === `curve:${c.id}`;
  const info = useInfo().data;
  const set = (curve: Curve, gesture: string) => edit([{ op: "curve.set", ...place, curve }], gesture);
  const height = 96;
  const y = (v: number) => 10 + (1 - v) * (height - 20);
  const axes = axesOf(c, time, beat, y, (py) => 1 - (py - 10) / (height - 20));
  const drives = recipe.modulations.filter((m) => m.by === c.id);
  const last = c.points.at(-1)?.at ?? 0;
  const otherUnit = (): Curve => {
    const scale = c.unit === "ms" ? 1 / beat : beat;
    return {
      ...c,
      unit: c.unit === "ms" ? "beats" : "ms",
      lasts: c.lasts * scale,
      points: c.points.map((p) => ({ ...p, at: p.at * scale })),
    };
  };
  return (
    <div className={chosen ? "outline-2 outline-warning/60 rounded-lg" : ""}>
      <Chart
        title=""
        sub={
          <span className="flex flex-col gap-0.5">
            <TextBox
              label={`Name of ${c.name}`}
              value={c.name}
              width={58}
              className="font-semibold text-sm!"
              onCommit={(name) => name !== "" && set({ ...c, name }, "")}
            />
            {c.unit === "beats" ? "in beats" : "in ms"}
            {c.round >= 0 && ", round"}
          </span>
        }
        width={width}
        height={height}
        ticks={[]}
        lines={[
          {
            id: c.id,
            colour,
            points: points.map((p) => [time.x(p[0] ?? 0), y(p[1] ?? 0)] as [number, number]),
          },
        ]}
        handles={curveHandles(c, axes, colour, set)}
        onAdd={(x, py) => set(addPoint(c, axes.at(x), axes.value(py)), "")}
        corner={
          <>
            {drives.length === 0 && (
              <span className="text-muted">
                Not assigned. Pick it from the curve menu beside a parameter.
              </span>
            )}
            <span className="num rounded bg-base-200 px-1 text-right leading-snug">
              {drives.map((m) => {
                const n = info && numberOf(info, recipe, m.at);
                if (!n) return null;
                const digits = Math.abs(m.from) >= 100 || Math.abs(m.to) >= 100 ? 0 : 1;
                return (
                  <span key={m.at} className="block">
                    <span className="text-muted">
                      {n.of} {n.param.label.toLowerCase()}
                    </span>{" "}
                    {m.at === "body.end_hz" ? noteText(m.from).split(" ")[0] : num(m.from, digits)} →{" "}
                    {m.at === "body.end_hz" ? noteText(m.to).split(" ")[0] : num(m.to, digits)} {n.param.unit}
                  </span>
                );
              })}
            </span>
            <Menu
              label="Curve"
              name={`What ${c.name} modulates`}
              right
              items={[
                {
                  text: c.unit === "ms" ? "Count in beats" : "Count in ms",
                  hint: c.unit === "ms" ? "As long as the tempo makes it" : "As long at every tempo",
                  onClick: () => set(otherUnit(), ""),
                },
                {
                  text: c.round >= 0 ? "Run once" : "Loop",
                  hint: c.round >= 0 ? "" : "From its first point, for four times its length",
                  onClick: () =>
                    set(
                      c.round >= 0 ? { ...c, round: -1, lasts: 0 } : { ...c, round: 0, lasts: last * 4 },
                      "",
                    ),
                },
                ...(c.round >= 0
                  ? [
                      {
                        text: "Go round longer",
                        hint: `Now ${num(c.lasts)} ${c.unit}`,
                        onClick: () => set({ ...c, lasts: c.lasts * 2 }, ""),
                      },
                      {
                        text: "Go round shorter",
                        onClick: () => set({ ...c, lasts: Math.max(c.lasts / 2, last) }, ""),
                      },
                    ]
                  : []),
                {
                  text: "Turn upside down",
                  onClick: () =>
                    set({ ...c, points: c.points.map((p) => ({ ...p, value: 1 - p.value })) }, ""),
                },
                {
                  text: "Save to library",
                  hint: "Under its name, for every sound",
                  onClick: () =>
                    void api
                      .saveCurve(c)
                      .then(() => client.invalidateQueries({ queryKey: ["library"] }))
                      .then(() => notify(`${c.name} is in the library.`, "info"))
                      .catch((e: Error) => notify(e.message)),
                },
                {
                  text: "Copy",
                  hint: "To be pasted into this or another sound",
                  onClick: () => sessionStorage.setItem("curve", JSON.stringify(c)),
                },
              ]}
            />
            <button
              type="button"
              className="press px-2"
              aria-label={`Remove ${c.name}`}
              title="Remove this curve; what followed it stays as it is set"
              onClick={() => edit([{ op: "curve.remove", ...place, curve: c.id }])}
            >
              <Trash2 size={14} />
            </button>
          </>
        }
      />
    </div>
  );
}
