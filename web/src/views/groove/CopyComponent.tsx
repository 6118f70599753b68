import { useState } from "react";
import type { FeelPart } from "../../live/wire";
import { useProject } from "../../state/project";
import { parts } from "./FeelParts";

/** Swing from here, the snare's lean from there. */
export function TakePart(p: { sources: [string, string, string][]; voice: string; voiceName: string }) {
  const edit = useProject((s) => s.edit);
  const [part, setPart] = useState<FeelPart>("swing");
  const [from, setFrom] = useState(0);
  const [only, setOnly] = useState(false);
  const source = p.sources[Math.min(from, p.sources.length - 1)];
  return (
    <div className="flex flex-wrap items-center gap-1 text-xs">
      <select
        className="press h-7 px-1.5 text-xs"
        aria-label="Part of the feel"
        value={part}
        onChange={(e) => setPart(e.target.value as FeelPart)}
      >
        {parts.map(([id, text]) => (
          <option key={id} value={id}>
            {text}
          </option>
        ))}
      </select>
      from
      <select
        className="press h-7 max-w-[120px] px-1.5 text-xs"
        aria-label="Taken from"
        value={from}
        onChange={(e) => setFrom(Number(e.target.value))}
      >
        {p.sources.map(([kind, id, name], i) => (
          <option key={`${kind} ${id}`} value={i}>
            {name}
          </option>
        ))}
      </select>
      <label className="flex items-center gap-1">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={only}
          onChange={(e) => setOnly(e.target.checked)}
        />
        only {p.voiceName}
      </label>
      <button
        type="button"
        className="press h-7 px-2 text-xs"
        onClick={() =>
          source &&
          edit([
            { op: "feel.take", from: source[0], id: source[1], parts: [part], voices: only ? [p.voice] : [] },
          ])
        }
      >
        Take
      </button>
    </div>
  );
}
