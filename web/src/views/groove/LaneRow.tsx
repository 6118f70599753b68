// The row of one voice: its name, its grid, its hits as sticks and the
// reference's behind them.
import { memo, useCallback, useEffect, useMemo, useState } from "react";
import type { Family, Hit, Schemas, Voice } from "../../api/client";
import { useMonitor } from "../../live/monitor";
import { Canvas } from "../../parts/Canvas";
import { num } from "../../parts/format";
import { near } from "../../parts/sight";
import { useProject } from "../../state/project";
import { useSettled } from "../../state/queries";
import { useSelection } from "../../state/selection";
import { ppq } from "../../state/ticks";
import { HitList, inWords } from "./HitList";
import { LaneName } from "./LaneName";
import { laneKeys } from "./laneKeys";
import { paintLane, stepsOf } from "./lanePaint";
import { type Axis, type Differs, placed, rowHeight, type Shadow } from "./layout";
import type { Box } from "./select";
import { hitAt, point, useLaneDrag } from "./useLaneDrag";

interface Lane {
  hits: Hit[];
  /** Where each of the hits falls. */
  falls: Schemas["Fall"][];
  voice: Voice;
  lean: number;
  /** Of a bar. */
  beats: number;
  axis: Axis;
  scale: number;
  /** The reference's hits, in order of their ticks. */
  shadows: Shadow[];
  /** After how many ticks the lane repeats. */
  lasts: number;
  /** Its own steps a beat; 0 is the groove's. */
  grid: number;
  /** Families by voice, for hits that strike another one's sound. */
  families: Record<string, Family>;
  /** How the row differs from the first of the other variations. */
  differs: Differs | undefined;
  /** Brings a tick into sight. */
  onReveal: (tick: number) => void;
  /** The box that is being drawn over the rows; null when it is done. */
  onBox: (box: Box | null) => void;
}

/** Follows the wheel at once while it is near what is in sight, else when that rests. */
export const LaneRow = memo(function LaneRow(lane: Lane) {
  const [row, setRow] = useState<HTMLDivElement | null>(null);
  const [isNear, setNear] = useState(true);
  const rested = useSettled(lane.axis, 150);
  useEffect(() => (row ? near.watch(row, setNear) : undefined), [row]);
  return <Row {...lane} axis={isNear ? lane.axis : rested} onRow={setRow} />;
});

/** Drawn again only when something of the row changes. */
const Row = memo(function Row({
  hits,
  falls,
  voice,
  lean,
  beats,
  axis,
  scale,
  shadows,
  lasts,
  grid,
  families,
  differs,
  onReveal,
  onBox,
  onRow,
}: Lane & { onRow: (row: HTMLDivElement | null) => void }) {
  const edit = useProject((p) => p.edit);
  const set = useSelection((s) => s.set);
  const cursor = useSelection((s) => (s.voice === voice.id ? s.tick : null));
  const moved = useSelection((s) => s.moved);
  // A text, so that the row is drawn again only when its own selection changes.
  const picked = useSelection((s) => s.hits.flatMap((h) => (h.voice === voice.id ? [h.hit] : [])).join(" "));
  const selected = useMemo(() => new Set(picked === "" ? [] : picked.split(" ")), [picked]);
  const active = cursor !== null;
  const shown = useMemo(() => placed(hits, falls, axis, scale), [hits, falls, axis, scale]);
  const snap = useSelection((s) => s.snap);
  const alone = useMonitor((m) => m.solo.includes(voice.id));
  const others = useMonitor((m) => m.solo.length > 0);
  const stepTicks = snap > 0 ? ppq / snap : grid > 0 ? ppq / grid : axis.stepTicks;
  const [under, setUnder] = useState("");

  const drag = useLaneDrag({ voice: voice.id, axis, shown, selected, stepTicks, lasts, scale, onBox });
  const paint = useCallback(
    (pen: CanvasRenderingContext2D) =>
      paintLane(pen, {
        voice,
        hits,
        falls,
        shown,
        selected,
        moved,
        cursor,
        axis,
        scale,
        stepTicks,
        lasts,
        shadows,
        families,
        differs,
        faint: voice.mute || (others && !alone),
      }),
    [
      voice,
      hits,
      falls,
      shown,
      selected,
      moved,
      cursor,
      axis,
      scale,
      stepTicks,
      lasts,
      shadows,
      families,
      differs,
      others,
      alone,
    ],
  );
  const keys = laneKeys(voice.id, axis, stepTicks, lasts, onReveal);
  const behind = shadows.filter((s) => s.tick >= axis.from && s.tick < axis.to).length;
  return (
    <div
      ref={onRow}
      className={`flex rounded-lg ${active ? "bg-row" : "bg-base-200"}`}
      style={{ height: rowHeight }}
    >
      <LaneName voice={voice} lean={lean} alone={alone}>
        {(lasts !== axis.total || grid > 0) && ` ${num(lasts / stepsOf(axis, grid), 0)} st`}
      </LaneName>
      {/* biome-ignore lint/a11y/useSemanticElements: a lane of hits on a time axis has no element of its own */}
      <div
        className="relative grow rounded-r-lg focus-visible:-outline-offset-2"
        role="group"
        // biome-ignore lint/a11y/noNoninteractiveTabindex: the lane takes keys: cursor, place, velocity, nudge
        tabIndex={0}
        aria-label={`${voice.name} lane, ${hits.length} hits. Arrow keys move, Enter places or removes`}
        data-lane={voice.id}
        data-behind={behind}
        onKeyDown={keys}
        onFocus={() => useSelection.getState().voice !== voice.id && set({ voice: voice.id })}
      >
        <Canvas
          width={axis.width}
          height={rowHeight}
          paint={paint}
          className="touch-none"
          title={under}
          {...drag}
          onContextMenu={(e) => {
            e.preventDefault();
            const { x, y } = point(e);
            const at = hitAt(shown, axis, x, y)?.hit;
            if (at) edit([{ op: "hit.delete", hits: [{ voice: voice.id, hit: at.id }] }]);
          }}
          onPointerMove={(e) => {
            drag.onPointerMove(e);
            if (e.buttons !== 0) return;
            const { x, y } = point(e);
            const at = hitAt(shown, axis, x, y);
            setUnder(at ? inWords(at, beats) : "");
          }}
        />
        <HitList shown={shown} beats={beats} selected={selected} name={voice.name} />
      </div>
    </div>
  );
});
