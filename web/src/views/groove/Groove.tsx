import { Fragment, useDeferredValue, useEffect, useMemo, useRef, useState } from "react";
import type { State } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { useWhatPlays } from "../../live/useWhatPlays";
import { Overview } from "../../parts/Overview";
import { Playhead } from "../../parts/Playhead";
import { fittingScale, widest } from "../../parts/sticks";
import { useWidth } from "../../parts/useWidth";
import { useActiveReference, useAnalysis } from "../../state/queries";
import { useSelection } from "../../state/selection";
import { useFollow, useTimeView, useTimeWheel } from "../../time/useTimeView";
import { Below } from "./Below";
import { Head } from "./Head";
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
  widestFall,
} from "./layout";
import { BoxOver, noDifference, nothing, Ruler, Small } from "./Overviews";
import { usePanels } from "./panels";
import { ScaleChoice } from "./ScaleChoice";
import { Side } from "./Side";
import type { Box } from "./select";
import { TakeBar } from "./TakeBar";
import { useFeelKeys } from "./useFeelKeys";

export function Groove({ state }: { state: State }) {
  const [ref, width] = useWidth<HTMLDivElement>();
  const analysis = useAnalysis().data;
  const reference = useActiveReference();
  // All but the rows follows when there is time, so that a drag of many hits stays smooth.
  const later = useDeferredValue(state);
  const doc = state.document;
  const g = doc.groove;
  const time = useTimeView(`groove ${state.id}`, limitsOf(doc), firstView(doc));
  const axis = useAxis(doc, time.view, width - labelWidth);
  const rows = useRef<HTMLDivElement>(null);
  useTimeWheel(rows, axis, time, labelWidth);
  useFollow(time, (tick) => tick % axis.total);
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
    const most = Math.max(widestFall(state.falls), ...[...shadows.values()].map(widest));
    return fittingScale(most, 60000 / bpm / g.grid);
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
        <Head state={later} />
        <div className="mb-1 flex items-center gap-1.5">
          <TakeBar state={later} />
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
                    onReveal={time.reveal}
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
        <Below state={later} width={width} />
      </main>
      <Side state={later} />
    </>
  );
}

/** The moment around which keys zoom: the cursor where it is in sight, else the middle. */
function inSight(axis: Axis): number {
  const { tick } = useSelection.getState();
  return tick >= axis.from && tick <= axis.to ? tick : (axis.from + axis.to) / 2;
}
