// A file too long to be listened to whole, or damaged: which stretch of it shall it be?
import { useEffect, useRef, useState } from "react";
import { api, type Schemas } from "../api/client";
import { clamp, minutes, secondsOf } from "./format";
import { bringStretch, useImport } from "./importing";
import { useDrag } from "./useDrag";
import { useWidth } from "./useWidth";

const height = 110;
const least = 5; // seconds, or all there is

export function StretchChooser({ long }: { long: Schemas["LongFile"] }) {
  const box = useRef<HTMLDialogElement>(null);
  const [ref, width] = useWidth<HTMLDivElement>();
  const [from, setFrom] = useState(long.from_s);
  const [to, setTo] = useState(long.to_s);
  const taken = useRef(false);
  useEffect(() => {
    box.current?.showModal();
  }, []);
  const total = long.survey.duration_s;
  const shortest = Math.min(least, total);
  const { damage } = long.survey;
  const x = (s: number) => (s / total) * width;
  const set = (a: number, b: number, keep: "from" | "to" | "both") => {
    const length = clamp(b - a, shortest, Math.min(long.longest_s, total));
    const start = keep === "from" ? clamp(b - length, 0, total - length) : clamp(a, 0, total - length);
    setFrom(start);
    setTo(start + length);
  };
  const peaks = long.survey.peaks;
  const each = width / Math.max(peaks.length, 1);
  const path = peaks
    .map(
      (p, i) =>
        `M${((i + 0.5) * each).toFixed(1)} ${(height / 2 - p * 48).toFixed(1)}V${(height / 2 + p * 48 + 1).toFixed(1)}`,
    )
    .join("");
  const every = [15, 30, 60, 120, 300, 600, 1800, 3600].find((s) => x(s) >= 70) ?? 7200;
  const marks = Array.from({ length: Math.floor(total / every) + 1 }, (_, i) => i * every);
  const point = (e: React.PointerEvent) =>
    ((e.clientX - e.currentTarget.getBoundingClientRect().left) / width) * total;
  const dragging = useDrag<{
    way: "from" | "to" | "both";
    at: number;
    from: number;
    to: number;
    was: [number, number];
  }>({
    start: (e) => {
      const s = point(e);
      const near = (edge: number) => Math.abs(x(edge) - x(s)) < 9;
      const way = near(from) ? "from" : near(to) ? "to" : "both";
      const was: [number, number] = [from, to];
      if (way !== "both" || (s > from && s < to)) return { way, at: s, from, to, was };
      const half = (to - from) / 2;
      set(s - half, s + half, "both");
      return {
        way,
        at: s,
        from: clamp(s - half, 0, total - 2 * half),
        to: clamp(s + half, 2 * half, total),
        was,
      };
    },
    move: (d, e) => {
      const by = point(e) - d.at;
      if (d.way === "from") set(Math.min(d.from + by, d.to - shortest), d.to, "from");
      else if (d.way === "to") set(d.from, d.to + by, "to");
      else set(d.from + by, d.to + by, "both");
    },
    drop: () => undefined,
    cancel: (d) => {
      setFrom(d.was[0]);
      setTo(d.was[1]);
    },
  });
  const field = (label: string, value: number, onChange: (s: number) => void) => (
    <TimeField key={`${label} ${value}`} label={label} value={value} onChange={onChange} />
  );
  return (
    <dialog
      ref={box}
      aria-label="Choose a stretch"
      className="m-auto w-[900px] max-w-[94vw] rounded-xl border border-line bg-base-100 p-5 text-base-content backdrop:bg-black/40"
      onClose={() => {
        useImport.setState({ long: null });
        if (!taken.current) void api.dropLong(long.id).catch(() => undefined);
      }}
    >
      <h2 className="text-2xl">Which stretch of {long.name}?</h2>
      <p className="mb-4 text-muted">
        {damage && `${damage} What lies before can be listened to. `}
        {(damage === "" || total > long.longest_s) && (
          <>
            It lasts <span className="num">{minutes(total)}</span>; up to{" "}
            <span className="num">{minutes(long.longest_s)}</span> can be listened to at once. Proposed are
            its fullest two minutes.{" "}
          </>
        )}
        Drag the stretch or its ends.
      </p>
      <div ref={ref}>
        {width > 0 && (
          <svg
            width={width}
            height={height + 22}
            className="cursor-pointer touch-none"
            role="img"
            aria-label={`Overview; from ${minutes(from)} to ${minutes(to)} is chosen`}
            {...dragging}
          >
            <rect width={width} height={height} rx={8} fill="var(--color-base-200)" />
            <rect
              x={x(from)}
              width={Math.max(x(to) - x(from), 2)}
              height={height}
              fill="var(--ref)"
              opacity={0.22}
            />
            <path
              d={path}
              stroke="var(--color-base-content)"
              strokeWidth={Math.max(each * 0.8, 0.5)}
              opacity={0.7}
            />
            {[from, to].map((s) => (
              <rect
                key={s}
                x={x(s) - 2}
                width={4}
                height={height}
                rx={2}
                fill="var(--ref)"
                className="cursor-ew-resize"
              />
            ))}
            {marks.map((s) => (
              <text
                key={s}
                x={x(s)}
                y={height + 16}
                textAnchor={s === 0 ? "start" : x(s) > width - 20 ? "end" : "middle"}
              >
                {minutes(s)}
              </text>
            ))}
          </svg>
        )}
      </div>
      <div className="mt-3 flex items-center gap-4">
        {field("From", from, (s) => set(s, to > s + shortest ? to : s + (to - from), "to"))}
        {field("To", to, (s) => set(from, s, "to"))}
        <span className="grow text-muted">
          <span className="num">{minutes(to - from)}</span> of it
        </span>
        <button type="button" className="press" onClick={() => box.current?.close()}>
          Discard
        </button>
        <button
          type="button"
          className="press press-strong"
          onClick={() => {
            taken.current = true;
            box.current?.close();
            void bringStretch(long, { from_s: from, to_s: to });
          }}
        >
          Listen to this stretch
        </button>
      </div>
    </dialog>
  );
}

function TimeField(p: { label: string; value: number; onChange: (seconds: number) => void }) {
  const [text, setText] = useState(minutes(p.value));
  return (
    <label className="flex items-center gap-2 text-sm">
      {p.label}
      <input
        className="press num w-[92px] cursor-text"
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={() => {
          const s = secondsOf(text);
          if (s === null) setText(minutes(p.value));
          else p.onChange(s);
        }}
      />
    </label>
  );
}
