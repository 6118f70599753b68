// A number that is edited by drag, wheel, typing and arrow keys alike; double
// click brings the reset value back.
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { newGesture } from "../state/project";
import { clamp, num } from "./format";
import { useDrag } from "./useDrag";

export interface NumberFieldProps {
  label: string;
  value: number;
  unit: string;
  min: number;
  max: number;
  /** Equal drags make equal ratios. */
  log?: boolean;
  digits?: number;
  /** What one arrow key changes, for linear values. */
  step?: number;
  reset?: number;
  hint?: string;
  /** Takes less room, for bars of controls. */
  compact?: boolean;
  onChange: (value: number, gesture: string) => void;
}

const dragPixels = 260; // for the whole range

export function NumberField(p: NumberFieldProps) {
  const { label, value, unit, min, max, log = false, reset, onChange } = p;
  const digits = p.digits ?? (Math.abs(value) >= 1000 ? 0 : 1);
  const step = p.step ?? (max - min) / 100;
  const [text, setText] = useState<string | null>(null);
  const [local, setLocal] = useState<number | null>(null);
  const dragging = useRef(false);
  const wheel = useRef({ gesture: "", at: 0 });
  const box = useRef<HTMLDivElement>(null);
  const input = useRef<HTMLInputElement>(null);
  const shown = local ?? value;
  const written = num(shown, digits);

  const set = (v: number, gesture: string) => {
    const next = clamp(v, min, max);
    setLocal(next);
    onChange(next, gesture);
  };
  const shift = (from: number, amount: number) =>
    log ? from * (max / min) ** amount : from + (max - min) * amount;

  // The server's answer ends the local preview, unless a drag goes on.
  const [answered, setAnswered] = useState(value);
  if (answered !== value) {
    setAnswered(value);
    if (!dragging.current) setLocal(null);
  }

  const drag = useDrag<{ x: number; from: number; gesture: string }>({
    start: (e) => {
      dragging.current = true;
      return { x: e.clientX, from: shown, gesture: newGesture() };
    },
    move: (d, e) => set(shift(d.from, (e.clientX - d.x) / (dragPixels * (e.shiftKey ? 10 : 1))), d.gesture),
    drop: () => {
      dragging.current = false;
    },
    cancel: (d) => {
      dragging.current = false;
      if (shown !== d.from) set(d.from, d.gesture);
    },
  });

  useEffect(() => {
    const el = box.current;
    const onWheel = (e: WheelEvent) => {
      if (!el?.contains(document.activeElement)) return;
      e.preventDefault();
      const now = performance.now();
      if (now - wheel.current.at > 600) wheel.current.gesture = newGesture();
      wheel.current.at = now;
      const ticks = -Math.sign(e.deltaY) * (e.shiftKey ? 0.1 : 1);
      set(log ? shift(shown, ticks * 0.01) : shown + ticks * step, wheel.current.gesture);
    };
    el?.addEventListener("wheel", onWheel, { passive: false });
    return () => el?.removeEventListener("wheel", onWheel);
  });

  // An answer that comes while the field has the focus is selected like what stood there before:
  // the next key replaces it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is selected whenever it is another
  useLayoutEffect(() => {
    if (text === null && input.current === document.activeElement) input.current?.select();
  }, [written, text]);

  const commit = () => {
    if (text === null) return;
    const v = Number(text.replace(",", ".").replace("−", "-"));
    setText(null);
    if (text.trim() !== "" && Number.isFinite(v)) set(v, "");
  };

  const keys = (e: React.KeyboardEvent<HTMLInputElement>) => {
    const by = { ArrowUp: 1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key];
    if (by !== undefined) {
      e.preventDefault();
      e.stopPropagation();
      const ticks = by * (e.shiftKey ? 0.1 : 1);
      setText(null);
      set(log ? shift(shown, ticks * 0.01) : shown + ticks * step, "");
    } else if (e.key === "Enter") commit();
    else if (e.key === "Escape") setText(null);
  };

  const full = log ? Math.log(shown / min) / Math.log(max / min) : (shown - min) / (max - min);
  return (
    <div ref={box} className="select-none py-0.5">
      <div className="flex items-baseline gap-2">
        {/* biome-ignore lint/a11y/noStaticElementInteractions: the field beside it takes the keys */}
        <span
          className="grow cursor-ew-resize touch-none truncate text-sm"
          title={`${p.hint ? `${p.hint}. ` : ""}${num(min, digits)} to ${num(max, digits)} ${unit}. Drag, wheel, type or arrow keys; double click resets`}
          {...drag}
          onDoubleClick={() => reset !== undefined && set(reset, "")}
        >
          {label}
        </span>
        <input
          ref={input}
          className={`num ${p.compact ? "w-[56px]" : "w-[72px]"} rounded border border-transparent bg-transparent px-1 text-right text-sm hover:border-line focus:border-line focus:bg-base-100`}
          role="spinbutton"
          aria-label={label}
          aria-valuenow={shown}
          aria-valuemin={min}
          aria-valuemax={max}
          aria-valuetext={`${num(shown, digits)} ${unit}`}
          value={text ?? written}
          onFocus={(e) => e.currentTarget.select()}
          onChange={(e) => setText(e.target.value)}
          onBlur={commit}
          onKeyDown={keys}
          inputMode="decimal"
        />
        {(unit !== "" || !p.compact) && (
          <span className={`${p.compact ? "" : "w-8"} shrink-0 text-2xs text-muted`}>{unit}</span>
        )}
      </div>
      <div className="h-[3px] overflow-hidden rounded bg-base-300" aria-hidden="true">
        <div className="h-full bg-base-content/55" style={{ width: `${clamp(full, 0, 1) * 100}%` }} />
      </div>
    </div>
  );
}
