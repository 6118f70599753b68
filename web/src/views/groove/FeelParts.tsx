import { Ear } from "lucide-react";
import type { Row, State } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import type { FeelPart } from "../../live/wire";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { useParam } from "../../state/numbers";
import { useCompare } from "../../state/queries";

export function Beside({ row, digits = 1 }: { row: Row | undefined; digits?: number }) {
  const compare = useCompare();
  // Keeps its place while it is measured, so that nothing below moves under the hand.
  if (!row) return compare.isLoading ? <p className="h-[18px]" /> : null;
  if (row.reference === null)
    return <p className="text-2xs text-muted">reference: {row.why || "not enough to say"}</p>;
  return (
    <p className="flex justify-between text-xs">
      <span className="text-ref">
        reference <span className="num">{num(row.reference, digits)}</span>
      </span>
      {row.difference !== null && (
        <span className={row.inside ? "text-success" : "font-semibold text-error"}>
          <span className="num">{num(row.difference, digits, true)}</span> {row.inside ? "inside" : "outside"}
        </span>
      )}
    </p>
  );
}

type FeelProps = Omit<React.ComponentProps<typeof ParamField>, "param"> & {
  id: string;
  table: "feel" | "voice_feel" | "hit";
};

export function Feel({ id, table, ...more }: FeelProps) {
  const param = useParam(table, id);
  return param && <ParamField param={param} {...more} />;
}

/** Whether a curve over bars goes back to its first value in its last bar, or stays. */
export function Ending(p: { of: string; stays: boolean; onChange: (stays: boolean) => void }) {
  return (
    <select
      className="press h-6 px-1 text-2xs"
      aria-label={`${p.of}: how it ends`}
      title="In the last bar: back to the first value, or the last one to its end"
      value={p.stays ? "stays" : "round"}
      onChange={(e) => p.onChange(e.target.value === "stays")}
    >
      <option value="round">goes round</option>
      <option value="stays">ends and stays</option>
    </select>
  );
}

/** Hears one part of the feel alone, or all again. */
export function HearOnly({ part }: { part: FeelPart }) {
  const hear = useMonitor((m) => m.hear);
  const on = hear?.length === 1 && hear[0] === part;
  return (
    <button
      type="button"
      className={`cursor-pointer rounded px-1 ${on ? "bg-primary text-primary-content" : "text-muted hover:bg-base-300"}`}
      aria-pressed={on}
      aria-label={`Solo ${part.replace("_", " ")}`}
      title="Only this component of the feel is heard"
      onClick={() => monitor.setHear(on ? null : [part])}
    >
      <Ear size={12} />
    </button>
  );
}

export const names = (state: State, voices: string[]) =>
  voices.length > 0
    ? `: ${voices.map((id) => state.document.kit.voices.find((v) => v.id === id)?.name ?? id).join(", ")}`
    : "";

/** Which voices a curve over bars moves. */
export function Moved(p: { state: State; rows: [string, string[], (voices: string[]) => void][] }) {
  return p.rows
    .filter(([, voices]) => voices.length > 0)
    .map(([what, voices, set]) => (
      <div key={what} className="mt-1 flex flex-wrap items-center gap-1 text-2xs">
        <span className="text-muted">{what} moves</span>
        {p.state.document.kit.voices.map((v) => {
          const on = voices.includes(v.id);
          return (
            <button
              key={v.id}
              type="button"
              className={`press h-6 px-1.5 text-2xs ${on ? "bg-row!" : ""}`}
              aria-pressed={on}
              aria-label={`${what} moves ${v.name}`}
              onClick={() => set(on ? voices.filter((id) => id !== v.id) : [...voices, v.id])}
            >
              {v.name}
            </button>
          );
        })}
      </div>
    ));
}

export const parts: [FeelPart, string][] = [
  ["swing", "Swing"],
  ["lean", "Lean"],
  ["contour", "Contour"],
  ["drift", "Drift"],
  ["scatter", "Scatter"],
  ["accent", "Accents"],
];
