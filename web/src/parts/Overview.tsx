// All there is, in small, with a window around what is on show: dragged to
// scroll, by its edges to zoom; a click elsewhere goes there.
import { type ReactNode, useMemo, useState } from "react";
import { rowKeys } from "../keys/useKeys";
import { axisOf, type View } from "../time/axis";
import type { TimeView } from "../time/useTimeView";
import { clamp } from "./format";
import { useDrag } from "./useDrag";

interface Drag {
  way: "from" | "to" | "both" | "choose";
  at: number;
  was: View;
  moved: boolean;
}

const cursors = {
  from: "cursor-ew-resize",
  to: "cursor-ew-resize",
  both: "cursor-grab",
  choose: "cursor-pointer",
};

const pad = 8;
const edge = 7; // pixels on either side of an edge that take hold of it

export function Overview(p: {
  label: string;
  time: TimeView;
  width: number;
  height: number;
  /** What is drawn of all there is; x is where a time lies. */
  children: (x: (time: number) => number) => ReactNode;
  /** A click outside the window, in place of centring it there. */
  onClick?: (time: number) => void;
  /** A drag outside the window chooses a stretch. */
  onChoose?: (stretch: View) => void;
  className?: string;
}) {
  const { time, width, height } = p;
  const { view, limits } = time;
  const { from, to } = limits;
  const axis = useMemo(() => axisOf({ from, to }, width, pad), [from, to, width]);
  const [chosen, setChosen] = useState<View | null>(null);
  const [hover, setHover] = useState<Drag["way"]>("choose");
  const timeAt = (e: React.PointerEvent) =>
    clamp(axis.at(e.clientX - e.currentTarget.getBoundingClientRect().left), limits.from, limits.to);
  const wayAt = (t: number): Drag["way"] => {
    const near = (side: number) => Math.abs(axis.x(side) - axis.x(t)) < edge;
    if (near(view.from)) return "from";
    if (near(view.to)) return "to";
    return t > view.from && t < view.to ? "both" : "choose";
  };
  const drag = useDrag<Drag>({
    start: (e) => {
      const at = timeAt(e);
      return { way: wayAt(at), at, was: view, moved: false };
    },
    move: (d, e) => {
      const t = timeAt(e);
      if (!d.moved && Math.abs(axis.x(t) - axis.x(d.at)) < 4) return;
      d.moved = true;
      const by = t - d.at;
      if (d.way === "from")
        time.show({ from: Math.min(d.was.from + by, d.was.to - limits.least), to: d.was.to });
      else if (d.way === "to")
        time.show({ from: d.was.from, to: Math.max(d.was.to + by, d.was.from + limits.least) });
      else if (d.way === "both") time.show({ from: d.was.from + by, to: d.was.to + by });
      else if (p.onChoose) setChosen({ from: Math.min(d.at, t), to: Math.max(d.at, t) });
      else time.show(around(t, d.was));
    },
    drop: (d, e) => {
      setChosen(null);
      const t = timeAt(e);
      if (d.moved && d.way === "choose") p.onChoose?.({ from: Math.min(d.at, t), to: Math.max(d.at, t) });
      if (!d.moved && p.onClick) p.onClick(t);
      else if (!d.moved && d.way === "choose") time.show(around(t, d.was));
    },
    cancel: (d) => {
      setChosen(null);
      time.show(d.was);
    },
  });
  const span = view.to - view.from;
  const keys = rowKeys("overview", {
    scroll: (e) => time.page(e.key === "ArrowLeft" ? -0.25 : 0.25),
    page: (e) => time.page(e.key === "PageUp" ? -1 : 1),
    ends: (e) =>
      time.show(
        e.key === "Home"
          ? { from: limits.from, to: limits.from + span }
          : { from: limits.to - span, to: limits.to },
      ),
  });
  const left = axis.x(view.from);
  const right = axis.x(view.to);
  return (
    <div
      className={`rowbox touch-none ${cursors[hover]} ${p.className ?? ""}`}
      style={{ width, height }}
      role="scrollbar"
      aria-label={p.label}
      aria-orientation="horizontal"
      aria-controls="rows"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={
        time.whole ? 0 : Math.round(((view.from - limits.from) / (limits.to - limits.from - span)) * 100)
      }
      tabIndex={0}
      onKeyDown={keys}
      {...drag}
      onPointerMove={(e) => {
        setHover(wayAt(timeAt(e)));
        drag.onPointerMove(e);
      }}
    >
      <svg width={width} height={height} aria-hidden="true">
        {p.children(axis.x)}
        <rect
          data-testid="on-show"
          x={left}
          y={1.5}
          width={Math.max(right - left, 4)}
          height={height - 3}
          rx={5}
          fill="var(--late)"
          fillOpacity={0.14}
          stroke="var(--late)"
          strokeWidth={1.6}
        />
        {chosen && (
          <rect
            x={axis.x(chosen.from)}
            y={4}
            width={axis.x(chosen.to) - axis.x(chosen.from)}
            height={height - 8}
            fill="var(--ref)"
            fillOpacity={0.28}
            stroke="var(--ref)"
          />
        )}
      </svg>
    </div>
  );
}

/** As much as before, with a moment in its middle. */
const around = (t: number, v: View): View => ({ from: t - (v.to - v.from) / 2, to: t + (v.to - v.from) / 2 });
