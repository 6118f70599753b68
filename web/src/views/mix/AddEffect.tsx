// The list of effects that may be added to a chain, by what they are for.
import { Plus } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import type { Info } from "../../api/client";
import { effectGroups, sentence } from "../../parts/effects";
import { useAway } from "../../parts/useAway";

const width = 760;
const height = 280;

export function AddEffect(p: {
  info: Info;
  name: string;
  disabled?: boolean;
  onAdd: (kind: string) => void;
}) {
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
        title="Add an effect"
        disabled={p.disabled}
        onClick={open}
      >
        <Plus size={14} />
      </button>
      {at && (
        <div
          role="menu"
          aria-label={p.name}
          className="fixed z-40 grid grid-cols-6 gap-1 rounded-xl border border-line bg-base-100 p-2 shadow-lg"
          style={{ ...at, width }}
        >
          {effectGroups(p.info.effects.filter((k) => !k.recipes)).map(([group, kinds]) => (
            <div key={group}>
              <div className="px-2 pb-0.5 text-[11px] text-muted">{sentence(group)}</div>
              {kinds.map((k) => (
                <button
                  key={k.id}
                  type="button"
                  role="menuitem"
                  title={k.hint}
                  className="block w-full cursor-pointer rounded-lg px-2 py-1 text-left text-[12.5px] leading-tight hover:bg-base-300 focus:bg-base-300"
                  onClick={() => {
                    setAt(null);
                    p.onAdd(k.id);
                  }}
                >
                  {k.label}
                </button>
              ))}
            </div>
          ))}
        </div>
      )}
    </div>
  );
}
