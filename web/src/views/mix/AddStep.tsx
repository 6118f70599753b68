// The list of steps that may be added to a chain, by what they are for.
import { Plus } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Info } from "../../api/client";
import { useAway } from "../../parts/useAway";

const width = 640;
const height = 250;

const groups: [string, string[]][] = [
  ["Tone", ["equalizer", "filter", "comb", "shift", "octave"]],
  ["Level", ["compressor", "gate", "transient", "transient3", "bands", "duck"]],
  ["Grit", ["drive", "tape", "worn", "crush", "clip", "limit", "ceiling"]],
  ["Space", ["reverb", "echo", "width", "tremolo", "trim", "bed"]],
  ["Paths", ["parallel", "split", "split3"]],
];

const hints: Record<string, string> = {
  equalizer: "Cuts, shelves, bells; a band may wait for a level",
  filter: "One swept filter with resonance",
  comb: "A string or a tube",
  shift: "Every partial by the same Hz",
  octave: "A sine an octave below",
  compressor: "By its own sound or by another voice",
  gate: "Takes away what is soft",
  transient: "Attack and sustain by themselves",
  transient3: "In lows, mids and highs",
  bands: "Three compressors, down and up",
  duck: "By a shape in the song's time",
  drive: "Soft, hard, even, folded, diode",
  tape: "Saturation, head bump, wow",
  worn: "Narrow, wavering, crackling",
  crush: "Fewer bits, another rate",
  clip: "Cuts what is beyond a ceiling",
  limit: "Keeps below a ceiling",
  ceiling: "Keeps the true peak below a ceiling",
  reverb: "A room",
  echo: "Delay in time or tempo",
  width: "Apart, detuned; lows in the middle",
  tremolo: "Level or side, in time",
  trim: "Level, polarity, channels",
  bed: "Hiss, crackle, hum, room",
  parallel: "A copy with its own chain",
  split: "Lows and highs apart",
  split3: "Lows, mids, highs apart",
};

export function AddStep(p: { info: Info; name: string; disabled?: boolean; onAdd: (kind: string) => void }) {
  const [at, setAt] = useState<{ left: number; top: number } | null>(null);
  const box = useRef<HTMLDivElement>(null);
  useAway(
    box,
    at !== null,
    useCallback(() => setAt(null), []),
  );
  useEffect(() => {
    if (at) box.current?.querySelector<HTMLElement>("[role=menuitem]")?.focus();
  }, [at]);
  const keys = (e: React.KeyboardEvent) => {
    if (!at) return;
    if (e.key === "Escape") {
      setAt(null);
      box.current?.querySelector("button")?.focus();
    }
    const by = { ArrowDown: 1, ArrowUp: -1 }[e.key];
    if (by) {
      const all = [...(box.current?.querySelectorAll<HTMLElement>("[role=menuitem]") ?? [])];
      all[(all.indexOf(document.activeElement as HTMLElement) + by + all.length) % all.length]?.focus();
      e.preventDefault();
    }
    e.stopPropagation();
  };
  const open = (e: React.MouseEvent) => {
    if (at) {
      setAt(null);
      return;
    }
    // Within the window, whatever the row that it belongs to scrolls.
    const r = e.currentTarget.getBoundingClientRect();
    setAt({
      left: Math.max(Math.min(r.left, innerWidth - width - 12), 8),
      top: r.bottom + height + 8 < innerHeight - 60 ? r.bottom + 4 : Math.max(r.top - height - 4, 8),
    });
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys belong to the menu inside
    <div ref={box} onKeyDown={keys}>
      <button
        type="button"
        className="press px-2.5"
        aria-haspopup="menu"
        aria-expanded={at !== null}
        aria-label={p.name}
        title="Add a step"
        disabled={p.disabled}
        onClick={open}
      >
        <Plus size={14} />
      </button>
      {at && (
        <div
          role="menu"
          aria-label={p.name}
          className="fixed z-40 grid grid-cols-5 gap-1 rounded-xl border border-line bg-base-100 p-2 shadow-lg"
          style={{ ...at, width }}
        >
          {groups.map(([title, kinds]) => (
            <div key={title}>
              <div className="px-2 pb-0.5 text-[11px] text-muted">{title}</div>
              {kinds.map((id) => (
                <button
                  key={id}
                  type="button"
                  role="menuitem"
                  title={hints[id]}
                  className="block w-full cursor-pointer rounded-lg px-2 py-1 text-left text-[12.5px] leading-tight hover:bg-base-300 focus:bg-base-300"
                  onClick={() => {
                    setAt(null);
                    p.onAdd(id);
                  }}
                >
                  {p.info.steps.find((k) => k.id === id)?.label ?? id}
                </button>
              ))}
            </div>
          ))}
        </div>
      )}
    </div>
  );
}
