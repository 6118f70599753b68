import { memo, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import type { Analysis, Hit, State } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { Choice } from "../../parts/Choice";
import { hue } from "../../parts/family";
import { NumberField } from "../../parts/NumberField";
import { OffsetPlot } from "../../parts/OffsetPlot";
import { Playhead } from "../../parts/Playhead";
import { fittingScale } from "../../parts/sticks";
import { useWidth } from "../../parts/useWidth";
import { useProject } from "../../state/project";
import { useActiveReference, useAnalysis, useInfo } from "../../state/queries";
import { Overview } from "../../time/Overview";
import { setFollow, useFollow, useTimeView, useTimeWheel, useViews } from "../../time/useTimeView";
import { FeelPanel } from "./FeelPanel";
import { LaneRow } from "./LaneRow";
import {
  type Axis,
  barSteps,
  firstView,
  heardDots,
  labelWidth,
  limitsOf,
  myDots,
  sameDots,
  useAxis,
  useShadows,
} from "./layout";
import { SelectPanel } from "./SelectPanel";
import type { Box } from "./select";
import { useSelection } from "./selection";

const nothing: never[] = []; // always the same, so that a row without is not drawn again

/** Steps per quarter note as a note value; threes are triplets. */
const gridName = (n: number) => (n % 3 === 0 ? `1/${(n * 8) / 3} T` : `1/${n * 4}`);

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
  const time = useTimeView(`groove ${state.id}`, limitsOf(doc), firstView(doc));
  const axis = useAxis(doc, time.view, width - labelWidth);
  const rows = useRef<HTMLDivElement>(null);
  useTimeWheel(rows, axis, time, labelWidth);
  useFollow(time, (tick) => tick % axis.total);
  const limits = useInfo().data?.limits;
  const follow = useViews((v) => v.follow);
  useKeys("time", {
    earlier: () => time.page(-1),
    later: () => time.page(1),
    closer: () => time.zoom(2, inSight(axis)),
    wider: () => time.zoom(0.5, inSight(axis)),
    whole: () => time.show(time.limits),
  });
  const [box, setBox] = useState<Box | null>(null);
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
              max={limits?.bars ?? g.bars}
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
              {(limits?.grids ?? [g.grid]).map((n) => (
                <option key={n} value={n}>
                  {gridName(n)}
                </option>
              ))}
            </select>
          </label>
          <span className="grow" />
          <button
            type="button"
            className="press px-2.5"
            aria-pressed={follow}
            title="Keep what plays in sight (F)"
            onClick={() => setFollow(!follow)}
          >
            Follow
          </button>
          <SelectPanel state={state} />
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
            {reference ? `From “${reference.name}”:` : "Bring a reference to borrow its pattern and feel."}
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
              <span className="text-[12px] text-muted">Dashed: the reference.</span>
            </>
          )}
        </div>
        <div ref={ref}>
          {width > 0 && (
            <div className="mb-0.5 flex items-center">
              <span className="pl-3 text-[12px] text-muted" style={{ width: labelWidth }}>
                {g.bars} {g.bars === 1 ? "bar" : "bars"}
              </span>
              <Overview
                label="Which part of the groove is on show"
                time={time}
                width={width - labelWidth}
                height={30}
              >
                {(x) => <Small state={later} x={x} />}
              </Overview>
            </div>
          )}
        </div>
        {doc.kit.voices.length === 0 && (
          <p className="rowbox px-3 py-6 text-center text-muted">
            This kit has no voices. Add one in Sounds (key 2), or take a step back (Ctrl Z).
          </p>
        )}
        <div ref={rows} id="rows" className="relative overflow-x-clip">
          <Ruler axis={axis} beats={g.meter.beats} width={width} />
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
                  onBox={setBox}
                />
              ))}
            </div>
          )}
          <Playhead
            toX={(tick) => {
              const at = tick % axis.total;
              return at >= axis.from && at <= axis.to ? labelWidth + axis.x(at) : null;
            }}
          />
          {box && <BoxOver box={box} />}
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

/** The moment around which keys zoom: the cursor where it is in sight, else the middle. */
function inSight(axis: Axis): number {
  const { tick } = useSelection.getState();
  return tick >= axis.from && tick <= axis.to ? tick : (axis.from + axis.to) / 2;
}

/** The box that is being drawn, over the rows. */
function BoxOver({ box }: { box: Box }) {
  return (
    <div
      aria-hidden="true"
      className="pointer-events-none fixed z-20 rounded border border-ref bg-ref/15"
      style={{ left: box.left, top: box.top, width: box.right - box.left, height: box.bottom - box.top }}
    />
  );
}

/** Bars and beats over the rows. */
const Ruler = memo(function Ruler({ axis, beats, width }: { axis: Axis; beats: number; width: number }) {
  const wide = axis.beatTicks * axis.per > 48;
  const bar = axis.barTicks * axis.per;
  const every = wide ? axis.beatTicks : axis.barTicks * (bar > 46 ? 1 : bar > 23 ? 2 : bar > 11.5 ? 4 : 8);
  const at: number[] = [];
  for (let t = Math.ceil(axis.from / every) * every; t < axis.to; t += every) at.push(t);
  return (
    <svg width={Math.max(width, 0)} height={22} aria-hidden="true">
      {at.map((t) => {
        const isBar = t % axis.barTicks === 0;
        const n = Math.floor(t / axis.barTicks) + 1;
        return (
          <text
            key={t}
            x={labelWidth + axis.x(t)}
            y={16}
            style={isBar ? { fill: "var(--color-base-content)", fontWeight: 600 } : {}}
          >
            {isBar
              ? bar > 60
                ? `bar ${n}`
                : n
              : `${n}.${(((t % axis.barTicks) / axis.beatTicks) % beats) + 1}`}
          </text>
        );
      })}
    </svg>
  );
});

/** All hits in small, each row a line of the overview. */
function Small({ state, x }: { state: State; x: (tick: number) => number }) {
  const { groove, kit } = state.document;
  const height = 22 / Math.max(kit.voices.length, 1);
  return kit.voices.map((v, i) => (
    <SmallRow
      key={v.id}
      hits={groove.lanes.find((l) => l.voice === v.id)?.hits ?? nothing}
      x={x}
      y={4 + i * height}
      height={Math.max(height - 0.8, 0.8)}
      family={v.family}
    />
  ));
}

const SmallRow = memo(function SmallRow(p: {
  hits: Hit[];
  x: (tick: number) => number;
  y: number;
  height: number;
  family: string;
}) {
  const y = p.y.toFixed(1);
  const down = `v${p.height.toFixed(1)}`;
  return (
    <path
      d={p.hits.map((h) => `M${p.x(h.tick).toFixed(1)} ${y}${down}`).join("")}
      stroke={hue(p.family)}
      strokeWidth={p.hits.length > 400 ? 0.8 : 1.6}
      opacity={0.75}
    />
  );
});

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
