// A list that is heard with the arrow keys: what is chosen sounds at once, Enter
// takes it, Escape brings back what was there.
import { useEffect, useRef } from "react";

export function HearList<T>({
  label,
  items,
  id,
  chosen,
  onChoose,
  onTake,
  onBack,
  children,
}: {
  label: string;
  items: T[];
  id: (item: T) => string;
  chosen: string;
  onChoose: (item: T) => void;
  onTake: () => void;
  onBack: () => void;
  children: (item: T, chosen: boolean) => React.ReactNode;
}) {
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (chosen) box.current?.querySelector('[aria-selected="true"]')?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const keys = (e: React.KeyboardEvent) => {
    const at = items.findIndex((i) => id(i) === chosen);
    const to = {
      ArrowDown: at + 1,
      ArrowUp: at - 1,
      Home: 0,
      End: items.length - 1,
      PageDown: at + 8,
      PageUp: at - 8,
    }[e.key];
    if (to !== undefined) {
      e.preventDefault();
      e.stopPropagation();
      const next = items[Math.min(Math.max(to, 0), items.length - 1)];
      if (next && id(next) !== chosen) onChoose(next);
    } else if (e.key === "Enter") {
      e.preventDefault();
      onTake();
    } else if (e.key === "Escape") {
      e.preventDefault();
      e.stopPropagation();
      onBack();
    }
  };
  return (
    <div
      ref={box}
      role="listbox"
      aria-label={label}
      tabIndex={0}
      className="min-h-0 grow overflow-y-auto rounded-lg border border-line bg-base-100"
      onKeyDown={keys}
    >
      {items.map((i) => {
        const on = id(i) === chosen;
        return (
          // biome-ignore lint/a11y/useFocusableInteractive: the list itself takes the keys
          // biome-ignore lint/a11y/useKeyWithClickEvents: the list itself takes the keys
          <div
            key={id(i)}
            role="option"
            aria-selected={on}
            className={`cursor-pointer border-b border-line/60 px-2 py-1 text-sm ${on ? "bg-row" : "hover:bg-base-200"}`}
            onClick={() => onChoose(i)}
            onDoubleClick={onTake}
          >
            {children(i, on)}
          </div>
        );
      })}
    </div>
  );
}

/** A wave of the library, in small: least and most of each part, percent. */
export function PercentWave({ points, colour }: { points: number[][]; colour: string }) {
  const y = (v: number) => 12 - (v / 100) * 11;
  const top = points.map((p, i) => `${i},${y(p[1] ?? 0).toFixed(1)}`);
  const low = points.map((p, i) => `${i},${(y(p[0] ?? 0) + 0.6).toFixed(1)}`).reverse();
  return (
    <svg
      viewBox={`0 0 ${points.length} 24`}
      className="h-6 w-[96px] shrink-0"
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <polygon points={[...top, ...low].join(" ")} fill={colour} />
    </svg>
  );
}
