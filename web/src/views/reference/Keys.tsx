// The keys of a MIDI file and the families under which their hits are filed.
import { useState } from "react";
import { type Analysis, api, type Family } from "../../api/client";
import { familyName, Glyph } from "../../parts/family";
import { useProject } from "../../state/project";
import { useInfo } from "../../state/queries";
import type { Correction } from "./Tools";

export function Keys({ analysis, correct }: { analysis: Analysis; correct: (c: Correction) => void }) {
  const families = useInfo().data?.families ?? [];
  const notify = useProject((s) => s.notify);
  const [saving, setSaving] = useState(false);
  const keys = new Map<number, { family: Family; count: number }>();
  for (const h of analysis.hits) {
    if (h.key === null) continue;
    const k = keys.get(h.key) ?? { family: h.family, count: 0 };
    keys.set(h.key, { family: h.family, count: k.count + 1 });
  }
  const rows = [...keys].sort(([a], [b]) => a - b);
  const keep = async () => {
    setSaving(true);
    try {
      const known = await api.mapping();
      await api.saveMapping({
        keys: { ...known.keys, ...Object.fromEntries(rows.map(([k, v]) => [k, v.family])) },
      });
      notify("New MIDI files will be read like this.", "info");
    } catch (cause) {
      notify(cause instanceof Error ? cause.message : "This could not be saved.");
    }
    setSaving(false);
  };
  return (
    <div>
      <div className="mb-2 flex items-center gap-3">
        <button type="button" className="press" disabled={saving} onClick={() => void keep()}>
          Use for new MIDI files
        </button>
        <span className="text-xs text-muted">Until then they go by the General MIDI percussion map.</span>
      </div>
      <ul className="grid grid-cols-3 gap-1.5" aria-label="Keys of the file">
        {rows.map(([key, v]) => (
          <li key={key} className="rowbox flex items-center gap-2 px-2 py-1.5">
            <span className="num w-[52px] text-xs">key {key}</span>
            <Glyph family={v.family} size={15} />
            <select
              aria-label={`Family of key ${key}`}
              className="press h-7 min-w-0 grow px-1"
              value={v.family}
              onChange={(e) => correct({ kind: "map", key, family: e.target.value as Family })}
            >
              {families.map((f) => (
                <option key={f} value={f}>
                  {familyName(f)}
                </option>
              ))}
            </select>
            <span className="num text-2xs text-muted">{v.count} hits</span>
          </li>
        ))}
      </ul>
    </div>
  );
}
