// What is borrowed of the reference: its pattern, its feel, or both.
import { memo, useMemo, useState } from "react";
import type { Family, State } from "../../api/client";
import { familyName } from "../../parts/family";
import { count } from "../../parts/format";
import { useProject } from "../../state/project";
import { useActiveReference, useAnalysis, useInfo } from "../../state/queries";

export const TakeBar = memo(function TakeBar({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const analysis = useAnalysis().data;
  const reference = useActiveReference();
  const info = useInfo().data;
  const { voices } = state.document.kit;
  const [places, setPlaces] = useState<Record<string, string>>({});
  const [taken, setTaken] = useState<"all" | "cycle">("all");
  const missing = useMemo(() => {
    const heard = new Set(reference ? analysis?.hits.map((h) => h.family) : []);
    const there = (f: Family) => voices.some((v) => v.family === f);
    const standIns = (f: Family) => info?.relations[info.families.indexOf(f)] ?? [];
    return info ? [...heard].filter((f) => !there(f) && !standIns(f).some(there)).slice(0, 3) : [];
  }, [reference, analysis, voices, info]);
  const take = (op: "take.pattern" | "take.feel" | "take.both") =>
    edit([
      op === "take.feel"
        ? { op, reference: reference?.id ?? "" }
        : { op, reference: reference?.id ?? "", places, bars: taken },
    ]);
  return (
    <>
      <span className="min-w-0 truncate text-sm text-muted">
        {reference ? `Dashed: “${reference.name}”` : "Import a reference to borrow its pattern and feel."}
      </span>
      {reference && (
        <>
          <button type="button" className="press h-7 px-2" onClick={() => take("take.pattern")}>
            Use the pattern
          </button>
          <button type="button" className="press h-7 px-2" onClick={() => take("take.feel")}>
            Take the feel
          </button>
          <button type="button" className="press press-strong h-7 px-2" onClick={() => take("take.both")}>
            Take both
          </button>
          {analysis?.cycle_bars != null && (
            <select
              className="press h-7 px-1 text-xs"
              aria-label="Bars of the pattern"
              title="All bars as they were played, up to 64, or the cycle that repeats"
              value={taken}
              onChange={(e) => setTaken(e.target.value as "all" | "cycle")}
            >
              <option value="all">all bars</option>
              <option value="cycle">{`cycle: ${count(analysis.cycle_bars, "bar")}`}</option>
            </select>
          )}
          {missing.map((f) => (
            <label key={f} className="flex items-center gap-1 text-xs" title="This kit has no voice for it">
              {familyName(f)} to
              <select
                className="press h-7 max-w-[92px] px-1 text-xs"
                aria-label={`${familyName(f)} goes to`}
                value={places[f] ?? ""}
                onChange={(e) => setPlaces({ ...places, [f]: e.target.value })}
              >
                <option value="">Leave out</option>
                {voices.map((v) => (
                  <option key={v.id} value={v.id}>
                    {v.name}
                  </option>
                ))}
              </select>
            </label>
          ))}
        </>
      )}
    </>
  );
});
