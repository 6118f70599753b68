import { Fragment, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import type { Family, State } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { useWhatPlays } from "../../live/useWhatPlays";
import { Choice } from "../../parts/Choice";
import { familyName } from "../../parts/family";
import { count } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { NumberField } from "../../parts/NumberField";
import { Overview } from "../../parts/Overview";
import { Playhead } from "../../parts/Playhead";
import { fittingScale } from "../../parts/sticks";
import { TextBox } from "../../parts/TextBox";
import { useWidth } from "../../parts/useWidth";
import { useProject } from "../../state/project";
import { useActiveReference, useAnalysis, useInfo } from "../../state/queries";
import { chosen, useSelection } from "../../state/selection";
import { barTicks } from "../../state/ticks";
import { setFollow, useFollow, useTimeView, useTimeWheel, useViews } from "../../time/useTimeView";
import { Between } from "./Between";
import { FeelByStep } from "./FeelByStep";
import { FeelPanel } from "./FeelPanel";
import { Grooves } from "./Grooves";
import { HitPanel } from "./HitPanel";
import { Ideas } from "./Ideas";
import { Ladder } from "./Ladder";
import { LaneRow } from "./LaneRow";
import {
  type Axis,
  differences,
  firstView,
  gridName,
  labelWidth,
  laneTicks,
  limitsOf,
  useAxis,
  useShadows,
} from "./layout";
import { BoxOver, noDifference, nothing, Ruler, Small } from "./Overviews";
import { PlayIn } from "./PlayIn";
import { usePanels } from "./panels";
import { RowPanel } from "./RowPanel";
import { SelectPanel } from "./SelectPanel";
import type { Box } from "./select";
import { Tries } from "./Tries";
import { barsOf, useFeelKeys } from "./useFeelKeys";
import { VariationBar } from "./VariationBar";

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
  const info = useInfo().data;
  const limits = info?.limits;
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
  const panels = usePanels();
  const families = useMemo(
    () => Object.fromEntries(doc.kit.voices.map((v) => [v.id, v.family])),
    [doc.kit.voices],
  );
  const picked = chosen(state, sel.hits).length;
  useFeelKeys(state);
  useWhatPlays(false);
  const differ = useMemo(
    () => (later.document.variations.length > 1 ? differences(later.document) : noDifference),
    [later.document],
  );
  const laneOf = new Map(g.lanes.map((l, i) => [l.voice, i]));
  const [places, setPlaces] = useState<Record<string, string>>({});
  const [taken, setTaken] = useState<"all" | "cycle">("all");
  const homeless = useMemo(() => {
    const heard = new Set(reference ? analysis?.hits.map((h) => h.family) : []);
    const there = (f: Family) => doc.kit.voices.some((v) => v.family === f);
    const standIns = (f: Family) => info?.relations[info.families.indexOf(f)] ?? [];
    return info ? [...heard].filter((f) => !there(f) && !standIns(f).some(there)).slice(0, 3) : [];
  }, [reference, analysis, doc.kit.voices, info]);
  const take = (op: "take.pattern" | "take.feel" | "take.both") =>
    edit([
      op === "take.feel"
        ? { op, reference: reference?.id ?? "" }
        : { op, reference: reference?.id ?? "", places, bars: taken },
    ]);
  return (
    <>
      <main className="flex min-w-0 grow flex-col overflow-y-auto px-4 py-3">
        <div className="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1.5">
          <h1>
            <TextBox
              label="Name of the groove"
              value={g.name}
              width={120}
              className="font-display text-xl! font-semibold"
              onCommit={(name) => name !== "" && edit([{ op: "groove.name", name }])}
            />
          </h1>
          <VariationBar state={state} />
          <span className="grow" />
          <span className="text-xs text-muted">{cycleText(state)}</span>
          <button
            type="button"
            className="press h-7 px-2"
            aria-pressed={follow}
            title="Keep what plays in sight (F)"
            onClick={() => setFollow(!follow)}
          >
            Follow
          </button>
        </div>
        <div className="mb-1.5 flex flex-wrap items-center gap-x-2.5 gap-y-1.5">
          <div className="w-[100px]">
            <NumberField
              compact
              label="Bars"
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
          <label className="flex items-center gap-1.5 text-sm">
            grid
            <select
              className="press num h-7 px-1.5"
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
          <label className="flex items-center gap-1.5 text-sm" title="Snap finer than the grid">
            Snap
            <select
              className="press num h-7 px-1.5"
              aria-label="Draw on"
              value={sel.snap}
              onChange={(e) => sel.set({ snap: Number(e.target.value) })}
            >
              <option value={0}>grid</option>
              {(limits?.grids ?? []).map((n) => (
                <option key={n} value={n}>
                  {gridName(n)}
                </option>
              ))}
            </select>
          </label>
          <Choice
            label="Tool"
            value={sel.tool}
            options={[
              ["draw", "Draw", "Click places a hit"],
              ["select", "Select", "Drag selects hits"],
              ["roll", "Roll", "Drag draws a roll: how long, and how loud its end"],
            ]}
            onChange={(tool) => sel.set({ tool })}
          />
          {sel.tool === "roll" && (
            <select
              className="press num h-7 px-1.5"
              aria-label="Strokes a beat"
              value={sel.rate}
              onChange={(e) => sel.set({ rate: Number(e.target.value) })}
            >
              {[6, 8, 12, 16, 24].map((n) => (
                <option key={n} value={n}>
                  {n} a beat
                </option>
              ))}
            </select>
          )}
          <SelectPanel state={state} />
          <Menu
            label="Pattern"
            items={[
              {
                text: "Half time",
                hint: "Twice as long",
                onClick: () => edit([{ op: "groove.times", times: 2 }]),
              },
              {
                text: "Double time",
                hint: "Half as long",
                onClick: () => edit([{ op: "groove.times", times: 0.5 }]),
              },
              ...barsOf(state, sel.hits).map(([from, bars]) => ({
                text:
                  bars === 1
                    ? `Duplicate bar ${from} twice`
                    : `Play bars ${from} to ${from + bars - 1} twice`,
                hint: "Later bars move right",
                onClick: () => edit([{ op: "groove.repeat", from, bars, times: 2 }]),
              })),
              { text: "Clear all rows", onClick: () => edit([{ op: "groove.clear" }]) },
            ]}
          />
        </div>
        <div className="mb-1 flex items-center gap-1.5">
          <span className="min-w-0 truncate text-sm text-muted">
            {reference ? `Dashed: “${reference.name}”` : "Import a reference to borrow its pattern and feel."}
          </span>
          {reference && (
            <>
              <button type="button" className="press h-7 px-2" onClick={() => take("take.pattern")}>
                Use the pattern
              </button>
              <button type="button" className="press h-7 px-2" onClick={() => take("take.feel")}>
                Take the feel
              </button>
              <button type="button" className="press press-strong h-7 px-2" onClick={() => take("take.both")}>
                Take both
              </button>
              {analysis?.cycle_bars != null && (
                <select
                  className="press h-7 px-1 text-xs"
                  aria-label="Bars of the pattern"
                  title="All bars as they were played, up to 64, or the cycle that repeats"
                  value={taken}
                  onChange={(e) => setTaken(e.target.value as "all" | "cycle")}
                >
                  <option value="all">all bars</option>
                  <option value="cycle">{`cycle: ${count(analysis.cycle_bars, "bar")}`}</option>
                </select>
              )}
              {homeless.map((f) => (
                <label
                  key={f}
                  className="flex items-center gap-1 text-xs"
                  title="This kit has no voice for it"
                >
                  {familyName(f)} to
                  <select
                    className="press h-7 max-w-[92px] px-1 text-xs"
                    aria-label={`${familyName(f)} goes to`}
                    value={places[f] ?? ""}
                    onChange={(e) => setPlaces({ ...places, [f]: e.target.value })}
                  >
                    <option value="">Leave out</option>
                    {doc.kit.voices.map((v) => (
                      <option key={v.id} value={v.id}>
                        {v.name}
                      </option>
                    ))}
                  </select>
                </label>
              ))}
            </>
          )}
          <span className="grow" />
          <label
            className="flex items-center gap-1.5 text-sm"
            title="How much the sticks exaggerate early and late"
          >
            lean
            <select
              className="press num h-7 px-1.5"
              aria-label="stick tilt"
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
        <div ref={ref}>
          {width > 0 && (
            <div className="mb-0.5 flex items-center">
              <span className="pl-3 text-xs text-muted" style={{ width: labelWidth }}>
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
                <Fragment key={v.id}>
                  <LaneRow
                    hits={g.lanes[laneOf.get(v.id) ?? -1]?.hits ?? nothing}
                    falls={state.falls[laneOf.get(v.id) ?? -1] ?? nothing}
                    voice={v}
                    lean={g.feel.voices[v.id]?.lean_ms ?? 0}
                    beats={g.meter.beats}
                    axis={axis}
                    scale={scale}
                    shadows={shadows.get(v.family) ?? nothing}
                    lasts={laneTicks(doc, g.lanes[laneOf.get(v.id) ?? -1])}
                    grid={g.lanes[laneOf.get(v.id) ?? -1]?.grid ?? 0}
                    families={families}
                    differs={differ.get(v.id)}
                    onBox={setBox}
                  />
                  {panels.ladder === v.id && (
                    <Ladder
                      state={state}
                      voice={v}
                      axis={axis}
                      lasts={laneTicks(doc, g.lanes[laneOf.get(v.id) ?? -1])}
                    />
                  )}
                </Fragment>
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
        <section className="mt-3">
          <Choice
            label="Below the rows"
            value={panels.below}
            options={[
              ["steps", "Feel by step"],
              ["between", "Between voices"],
              ["variations", "Variations"],
              ["grooves", "Grooves"],
              ["ideas", "Ideas"],
              ["play", "Record live"],
            ]}
            onChange={(below) => panels.set({ below })}
          />
          <div className="mt-2">
            {panels.below === "steps" && (
              <>
                <p className="text-xs text-muted">
                  ms from the straight grid; filled is mine, hollow the reference over all its bars; shaded:
                  too small to hear
                </p>
                {width > 0 && (
                  <FeelByStep state={later} analysis={reference ? analysis : undefined} width={width} />
                )}
              </>
            )}
            {panels.below === "between" && <Between state={state} width={width} />}
            {panels.below === "variations" && <Tries state={state} />}
            {panels.below === "grooves" && <Grooves state={state} />}
            {panels.below === "ideas" && <Ideas state={state} />}
            {panels.below === "play" && <PlayIn state={state} />}
          </div>
        </section>
      </main>
      <aside
        className="flex w-[268px] shrink-0 flex-col gap-2 overflow-y-auto border-l border-line bg-base-200 px-4 py-2"
        aria-label="Feel, hits and row"
      >
        <div className="shrink-0">
          <Choice
            label="At the right"
            value={panels.right}
            options={[
              ["feel", "Feel"],
              ["hits", picked > 0 ? `Hits ${picked}` : "Hits"],
              ["row", "Row"],
            ]}
            onChange={(right) => panels.set({ right })}
          />
        </div>
        {panels.right === "feel" && <FeelPanel state={state} />}
        {panels.right === "hits" && <HitPanel state={state} />}
        {panels.right === "row" && <RowPanel state={state} />}
      </aside>
    </>
  );
}

/** After how many bars everything is as at the beginning, reported but never unrolled. */
function cycleText(state: State): string {
  const { groove } = state.document;
  const bar = barTicks(groove.meter);
  const bars = state.cycle_ticks / bar;
  if (groove.lanes.every((l) => l.steps === 0)) return "";
  if (bars > 1e6) return "the lanes never realign";
  return `full cycle ${bars % 1 === 0 ? bars : bars.toFixed(2)} bars`;
}

/** The moment around which keys zoom: the cursor where it is in sight, else the middle. */
function inSight(axis: Axis): number {
  const { tick } = useSelection.getState();
  return tick >= axis.from && tick <= axis.to ? tick : (axis.from + axis.to) / 2;
}
