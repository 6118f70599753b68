// The name of a lane: a click plays its voice, a drag makes the whole row later or earlier.
import type { ReactNode } from "react";
import type { Voice } from "../../api/client";
import { monitor } from "../../live/monitor";
import { Glyph } from "../../parts/family";
import { num } from "../../parts/format";
import { useDrag } from "../../parts/useDrag";
import { setNumber } from "../../state/numbers";
import { newGesture, useProject } from "../../state/project";
import { useSelection } from "../../state/selection";
import { labelWidth } from "./layout";

export function LaneName({
  voice,
  lean,
  alone,
  children,
}: {
  voice: Voice;
  /** How much later than the grid the voice plays, ms. */
  lean: number;
  /** Whether it is heard alone. */
  alone: boolean;
  /** What else there is to say of the lane. */
  children: ReactNode;
}) {
  const edit = useProject((p) => p.edit);
  const set = useSelection((s) => s.set);
  const hear = () => {
    set({ voice: voice.id });
    void monitor.strike(voice.id);
  };
  const leaning = useDrag<{ x: number; from: number; gesture: string; moved: boolean }>({
    start: (e) => ({ x: e.clientX, from: lean, gesture: newGesture(), moved: false }),
    move: (d, e) => {
      const by = (e.clientX - d.x) / (e.shiftKey ? 20 : 4);
      d.moved ||= Math.abs(e.clientX - d.x) > 3;
      if (d.moved)
        edit([setNumber(`groove/feel/${voice.id}/lean_ms`, Math.round((d.from + by) * 2) / 2)], d.gesture);
    },
    drop: () => undefined,
    cancel: (d) => d.moved && edit([setNumber(`groove/feel/${voice.id}/lean_ms`, d.from)], d.gesture),
  });
  return (
    <button
      type="button"
      className="flex shrink-0 cursor-pointer items-center gap-2.5 rounded-l-lg pl-3 text-left hover:bg-base-300"
      style={{ width: labelWidth }}
      title={`Play ${voice.name}; drag along to make the whole row later or earlier`}
      onClick={hear}
      {...leaning}
    >
      <Glyph family={voice.family} />
      <span className="min-w-0">
        <span className="block truncate font-semibold">{voice.name}</span>
        <span className="num block truncate text-2xs text-muted">
          {voice.mute ? "muted" : alone ? "alone" : `${num(lean, 1, true)} ms`}
          {children}
        </span>
      </span>
    </button>
  );
}
