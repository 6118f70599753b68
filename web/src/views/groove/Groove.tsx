import { Fragment, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import type { State } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { useWhatPlays } from "../../live/useWhatPlays";
import { Choice } from "../../parts/Choice";
import { Overview } from "../../parts/Overview";
import { Playhead } from "../../parts/Playhead";
import { fittingScale } from "../../parts/sticks";
import { TextBox } from "../../parts/TextBox";
import { useWidth } from "../../parts/useWidth";
import { useProject } from "../../state/project";
import { useActiveReference, useAnalysis } from "../../state/queries";
import { chosen, useSelection } from "../../state/selection";
import { barTicks } from "../../state/ticks";
import { setFollow, useFollow, useTimeView, useTimeWheel, useViews } from "../../time/useTimeView";
import { Below } from "./Below";
import { FeelPanel } from "./FeelPanel";
import { HitPanel } from "./HitPanel";
import { Ladder } from "./Ladder";
import { LaneRow } from "./LaneRow";
import {
  type Axis,
  differences,
  firstView,
  labelWidth,
  laneTicks,
  limitsOf,
  useAxis,
  useShadows,
} from "./layout";
import { BoxOver, noDifference, nothing, Ruler, Small } from "./Overviews";
import { usePanels } from "./panels";
import { RowPanel } from "./RowPanel";
import { ScaleChoice } from "./ScaleChoice";
import type { Box } from "./select";
import { TakeBar } from "./TakeBar";
import { Tools } from "./Tools";
import { useFeelKeys } from "./useFeelKeys";
import { VariationBar } from "./VariationBar";

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
        <Tools state={state} />
        <div className="mb-1 flex items-center gap-1.5">
          <TakeBar state={state} />
          <span className="grow" />
          <ScaleChoice chosen={chosenScale} fitting={fitting} onChoose={setScale} />
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
        <Below state={state} later={later} width={width} />
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
