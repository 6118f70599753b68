// The bands of an equalizer as dots over its picture: drag one to change its frequency and
// gain; a double click on the picture takes the next free band there.
import { useRef } from "react";
import { clamp, num } from "../../parts/format";
import { setNumber } from "../../state/numbers";
import { newGesture, useProject } from "../../state/project";
import type { Effect } from "./rows";

const range = 24;

export function Bands(p: {
  at: string;
  row: string;
  effect: Effect;
  width: number;
  height: number;
  colour: string;
}) {
  const edit = useProject((s) => s.edit);
  const drag = useRef<{ band: number; gesture: string } | null>(null);
  const v = (band: number, id: string) => p.effect.values[`band${band}.${id}`] ?? 0;
  const x = (hz: number) => (Math.log2(hz / 20) / Math.log2(1000)) * p.width;
  const hz = (px: number) => clamp(20 * 1000 ** (px / p.width), 20, 20000);
  const flat = (band: number) => [4, 5, 6].includes(v(band, "shape"));
  const y = (band: number) =>
    flat(band) ? p.height / 2 : p.height / 2 - (v(band, "gain_db") / range) * (p.height / 2 - 2);
  const set = (band: number, e: React.PointerEvent | React.MouseEvent, gesture: string, shape?: number) => {
    const r = (e.currentTarget as Element).closest("svg")?.getBoundingClientRect();
    if (!r) return;
    const gain = clamp(((p.height / 2 - (e.clientY - r.top)) / (p.height / 2 - 2)) * range, -range, range);
    edit(
      [
        ...(shape === undefined ? [] : [setNumber(`${p.at}/band${band}.shape`, shape)]),
        setNumber(`${p.at}/band${band}.hz`, Math.round(hz(e.clientX - r.left))),
        ...(flat(band) && shape === undefined
          ? []
          : [setNumber(`${p.at}/band${band}.gain_db`, Math.round(gain * 2) / 2)]),
      ],
      gesture,
    );
  };
  const bands = [1, 2, 3, 4, 5, 6, 7, 8].filter((b) => v(b, "shape") !== 0);
  return (
    // biome-ignore lint/a11y/useSemanticElements: dots over a picture have no element of their own
    <svg
      width={p.width}
      height={p.height}
      className="absolute inset-0 touch-none"
      role="group"
      aria-label="Bands of the equalizer"
      onDoubleClick={(e) => {
        const free = [1, 2, 3, 4, 5, 6, 7, 8].find((b) => v(b, "shape") === 0);
        if (free) set(free, e, "", 1);
      }}
    >
      {bands.map((b) => (
        // biome-ignore lint/a11y/noStaticElementInteractions: the band's numbers below take keys
        <circle
          key={b}
          cx={clamp(x(v(b, "hz")), 5, p.width - 5)}
          cy={y(b)}
          r={6}
          fill="var(--color-base-100)"
          stroke={p.colour}
          strokeWidth={2}
          className="cursor-grab"
          onPointerDown={(e) => {
            e.currentTarget.setPointerCapture(e.pointerId);
            drag.current = { band: b, gesture: newGesture() };
          }}
          onPointerMove={(e) => {
            if (drag.current?.band === b && e.buttons === 1) set(b, e, drag.current.gesture);
          }}
          onPointerUp={() => {
            drag.current = null;
          }}
          onDoubleClick={(e) => {
            e.stopPropagation();
            edit([setNumber(`${p.at}/band${b}.gain_db`, 0)]);
          }}
        >
          <title>
            band {b}: {num(v(b, "hz"), 0)} Hz{flat(b) ? "" : `, ${num(v(b, "gain_db"), 1, true)} dB`}
          </title>
        </circle>
      ))}
    </svg>
  );
}
