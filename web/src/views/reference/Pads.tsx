// The pads that tap: buttons that are louder the higher they are struck, and keys.
import { useEffect, useRef } from "react";
import type { Family } from "../../api/client";
import { familyName, Glyph, hue } from "../../parts/family";
import type { Stroke } from "../../standin/controller";

export const pads: [Family, string][] = [
  ["kick", "a"],
  ["snare", "s"],
  ["clap", "d"],
  ["rim", "f"],
  ["hat_closed", "j"],
  ["hat_open", "k"],
  ["shaker", "l"],
  ["tom", "h"],
];

export function Pads({ lit, onStrike }: { lit: string; onStrike: (s: Stroke) => void }) {
  const struck = useRef(onStrike);
  struck.current = onStrike;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const el = e.target as HTMLElement;
      if (e.repeat || e.ctrlKey || e.metaKey || /INPUT|SELECT/.test(el.tagName)) return;
      const pad = pads.find(([, key]) => key === e.key.toLowerCase());
      if (!pad) return;
      e.preventDefault();
      struck.current({ family: pad[0], velocity: e.altKey ? 52 : e.shiftKey ? 122 : 98, at: e.timeStamp });
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, []);
  return (
    <>
      <fieldset className="mb-3 grid grid-cols-8 gap-2" aria-label="Pads">
        {pads.map(([f, key]) => (
          <button
            key={f}
            type="button"
            className="flex h-[92px] cursor-pointer touch-none select-none flex-col items-center justify-center gap-1 rounded-xl border-2"
            style={{
              borderColor: hue(f),
              background: lit === f ? `color-mix(in oklab, ${hue(f)} 35%, var(--color-base-100))` : undefined,
            }}
            title="Struck higher up, it is louder"
            onPointerDown={(e) => {
              const r = e.currentTarget.getBoundingClientRect();
              const up = 1 - (e.clientY - r.top) / r.height;
              onStrike({ family: f, velocity: Math.round(45 + 82 * up), at: e.timeStamp });
            }}
          >
            <Glyph family={f} size={22} />
            <span className="text-xs">{familyName(f)}</span>
            <span className="num rounded border border-line px-1.5 text-2xs text-muted">
              {key.toUpperCase()}
            </span>
          </button>
        ))}
      </fieldset>
      <p className="mb-3 text-xs text-muted">
        Keys strike at 98, with Shift at 122, with Alt at 52; pads are louder the higher they are struck.
      </p>
    </>
  );
}
