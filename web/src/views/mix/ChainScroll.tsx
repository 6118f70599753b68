// The effects of a row side by side. Where there are more than fit, it says how many lie
// beyond its edges, and goes there; the chosen one is kept in sight.
import { type ReactNode, useCallback, useEffect, useLayoutEffect, useRef, useState } from "react";
import { beyond } from "./beyond";

export function ChainScroll(p: {
  name: string;
  /** The effect that is kept in sight, or empty. */
  chosen: string;
  onDragOver: (e: React.DragEvent) => void;
  onDrop: (e: React.DragEvent) => void;
  children: ReactNode;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [hidden, setHidden] = useState({ left: 0, right: 0 });
  const measure = useCallback(() => {
    const b = box.current;
    if (!b) return;
    const cards = [...b.querySelectorAll<HTMLElement>("[data-effect]")].map((c) => ({
      from: c.offsetLeft,
      to: c.offsetLeft + c.offsetWidth,
    }));
    const now = beyond(cards, b.scrollLeft, b.clientWidth);
    setHidden((was) => (was.left === now.left && was.right === now.right ? was : now));
  }, []);
  useLayoutEffect(measure);
  useEffect(() => {
    const seen = new ResizeObserver(measure);
    if (box.current) seen.observe(box.current);
    return () => seen.disconnect();
  }, [measure]);
  // An effect that was just added is chosen before it stands there.
  const shown = useRef("");
  useEffect(() => {
    if (p.chosen === shown.current) return;
    const card = box.current?.querySelector(`[data-effect="${p.chosen}"]`);
    if (p.chosen !== "" && !card) return;
    card?.scrollIntoView({ block: "nearest", inline: "nearest" });
    shown.current = p.chosen;
  });
  const go = (by: number) => box.current?.scrollBy({ left: by * (box.current.clientWidth - 60) });
  return (
    <div className="relative flex min-w-0">
      {/* biome-ignore lint/a11y/noStaticElementInteractions: effects are also moved by keys */}
      <div
        ref={box}
        className="relative flex min-w-0 items-center gap-1.5 overflow-x-auto py-1"
        style={{ scrollbarWidth: "none" }}
        onScroll={measure}
        onDragOver={p.onDragOver}
        onDrop={p.onDrop}
      >
        {p.children}
      </div>
      {(["left", "right"] as const).map(
        (side) =>
          hidden[side] > 0 && (
            <button
              key={side}
              type="button"
              className={`press absolute top-1/2 h-8 -translate-y-1/2 px-1.5 text-2xs shadow ${side === "left" ? "left-0" : "right-0"}`}
              aria-label={`${hidden[side]} more of ${p.name} to the ${side}`}
              onClick={() => go(side === "left" ? -1 : 1)}
            >
              {side === "left" ? `‹ ${hidden.left}` : `${hidden.right} ›`}
            </button>
          ),
      )}
    </div>
  );
}
