import { memo, useDeferredValue, useEffect, useMemo, useState } from "react";
import type { Analysis, State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { NumberField } from "../../parts/NumberField";
import { OffsetPlot } from "../../parts/OffsetPlot";
import { Playhead } from "../../parts/Playhead";
import { fittingScale } from "../../parts/Stick";
import { useWidth } from "../../parts/useWidth";
import { useProject } from "../../state/project";
import { useActiveReference, useAnalysis } from "../../state/queries";
import { FeelPanel } from "./FeelPanel";
import { LaneRow } from "./LaneRow";
import { barSteps, heardDots, labelWidth, myDots, sameDots, useAxis, useShadows } from "./layout";
import { useSelection } from "./selection";

const nothing: never[] = []; // always the same, so that a row without is not drawn again

const scales = [1, 2, 3, 5, 8, 10, 20];

export function Groove({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const sel = useSelection();
  const [ref, width] = useWidth<HTMLDivElement>();
  const analysis = useAnalysis().data;
  const reference = useActiveReference();
  // The plot below follows when there is time, so that a drag of many hits stays smooth.
  const later = useDeferredValue(state);
  const doc = state.document;
  const g = doc.groove;
  const axis = useAxis(doc, width - labelWidth);
  const shadows = useShadows(reference ? analysis : undefined, doc);
  const bpm = doc.tempo[0]?.bpm ?? 120;
  const fitting = useMemo(() => {
    const all = [
      ...state.falls.flat().map((f) => f.offset_ms),
      ...[...shadows.values()].flat().map((s) => s.offset),
    ];
    return fittingScale(all, 60000 / bpm / g.grid);
  }, [state.falls, shadows, bpm, g.grid]);
  const [chosenScale, setScale] = useState(0);
  const scale = chosenScale || fitting;
  const first = doc.kit.voices[0]?.id ?? "";
  useEffect(() => {
    if (!doc.kit.voices.some((v) => v.id === useSelection.getState().voice))
      useSelection.getState().set({ voice: first, tick: 0, hits: [] });
  }, [doc.kit.voices, first]);
  const laneOf = new Map(g.lanes.map((l, i) => [l.voice, i]));
  const take = (op: "take.pattern" | "take.feel" | "take.both") =>
    edit([{ op, reference: reference?.id ?? "" }]);
  const labels = Array.from({ length: axis.total / axis.beatTicks }, (_, i) => i);
  const every = axis.x(axis.beatTicks) - axis.x(0) > 34 ? 1 : g.meter.beats;
  return (
    <>
      <main className="flex min-w-0 grow flex-col overflow-y-auto px-4 py-3">
        <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-2">
          <h1 className="text-[21px]">{g.name}</h1>
          <div className="w-[118px]">
            <NumberField
              compact
              label="bars"
              value={g.bars}
              unit=""
              min={1}
              max={64}
              digits={0}
              step={1}
              log
              onChange={(v, gesture) =>
                Math.round(v) !== g.bars && edit([{ op: "groove.bars", bars: Math.round(v) }], gesture)
              }
            />
          </div>
          <label className="flex items-center gap-1.5 text-[13px]">
            grid
            <select
              className="press num px-1.5"
              value={g.grid}
              onChange={(e) => edit([{ op: "groove.grid", grid: Number(e.target.value) }])}
            >
              {[
                [1, "1/4"],
                [2, "1/8"],
                [3, "1/8 T"],
                [4, "1/16"],
                [6, "1/16 T"],
                [8, "1/32"],
                [12, "1/32 T"],
              ].map(([v, t]) => (
                <option key={v} value={v}>
                  {t}
                </option>
              ))}
            </select>
          </label>
          <span className="grow" />
          <Choice
            label="Tool"
            value={sel.tool}
            options={[
              ["draw", "Draw", "Click places a hit"],
              ["select", "Select", "Drag selects hits"],
            ]}
            onChange={(tool) => sel.set({ tool })}
          />
          <label
            className="flex items-center gap-1.5 text-[13px]"
            title="How much the sticks exaggerate early and late"
          >
            lean shown
            <select
              className="press num px-1.5"
              value={chosenScale}
              onChange={(e) => setScale(Number(e.target.value))}
            >
              <option value={0}>×{fitting} fits</option>
              {scales.map((s) => (
                <option key={s} value={s}>
                  ×{s}
                </option>
              ))}
            </select>
          </label>
        </div>
        <div className="mb-1 flex items-center gap-2">
          <span className="text-[13px] text-muted">
            {reference ? `From “${reference.name}”:` : "Bring a reference to borrow from it."}
          </span>
          {reference && (
            <>
              <button type="button" className="press" onClick={() => take("take.pattern")}>
                Take the pattern
              </button>
              <button type="button" className="press" onClick={() => take("take.feel")}>
                Take the feel
              </button>
              <button type="button" className="press press-strong" onClick={() => take("take.both")}>
                Take both
              </button>
              <span className="text-[12px] text-muted">Dashed and hollow: the reference.</span>
            </>
          )}
        </div>
        <div ref={ref} className="relative">
          <svg width={Math.max(width, 0)} height={22} aria-hidden="true">
            {labels
              .filter((i) => i % every === 0)
              .map((i) => {
                const bar = i % g.meter.beats === 0;
                const n = Math.floor(i / g.meter.beats) + 1;
                return (
                  <text
                    key={i}
                    x={labelWidth + axis.x(i * axis.beatTicks)}
                    y={16}
                    style={bar ? { fill: "var(--color-base-content)", fontWeight: 600 } : {}}
                  >
                    {bar ? (g.bars > 8 ? n : `bar ${n}`) : `${n}.${(i % g.meter.beats) + 1}`}
                  </text>
                );
              })}
          </svg>
          {width > 0 && (
            <div className="flex flex-col gap-1">
              {doc.kit.voices.map((v) => (
                <LaneRow
                  key={v.id}
                  hits={g.lanes[laneOf.get(v.id) ?? -1]?.hits ?? nothing}
                  falls={state.falls[laneOf.get(v.id) ?? -1] ?? nothing}
                  voice={v}
                  lean={g.feel.voices[v.id]?.lean_ms ?? 0}
                  beats={g.meter.beats}
                  axis={axis}
                  scale={scale}
                  shadows={shadows.get(v.family) ?? nothing}
                />
              ))}
            </div>
          )}
          <Playhead toX={(tick) => labelWidth + axis.x(tick % axis.total)} />
        </div>
        <section className="mt-4">
          <h2 className="text-[15px]">
            Feel by step{" "}
            <span className="font-sans text-[12px] font-normal text-muted">
              ms from the straight grid; filled is mine, hollow the reference over all its bars; shaded:
              nobody hears it
            </span>
          </h2>
          {width > 0 && (
            <FeelByStep state={later} analysis={reference ? analysis : undefined} width={width} />
          )}
        </section>
      </main>
      <FeelPanel state={state} />
    </>
  );
}

const FeelByStep = memo(function FeelByStep(p: {
  state: State;
  analysis: Analysis | undefined;
  width: number;
}) {
  const mine = myDots(p.state);
  const [filled, setFilled] = useState(mine);
  if (!sameDots(mine, filled)) setFilled(mine); // else the plot is not drawn again
  const hollow = useMemo(() => heardDots(p.analysis), [p.analysis]);
  return (
    <OffsetPlot
      filled={filled}
      hollow={hollow}
      steps={barSteps(p.state.document)}
      width={p.width}
      height={190}
    />
  );
});
