// Tones: a recipe is brought into the tones of a profile by as few changes as can be.
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Layer, type Schemas, type Voice } from "../../api/client";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";
import { usePreview } from "./usePreview";

const aims = [
  ["ranges", "into its ranges"],
  ["middle", "to their middle"],
  ["nearest", "to the nearest recording"],
] as const;

const longestName = 40;

export function Tones({
  voice,
  layer,
  reference,
}: {
  voice: Voice;
  layer: Layer | undefined;
  reference: Schemas["Reference"];
}) {
  const id = useProject((p) => p.state?.id) ?? "";
  const notify = useProject((p) => p.notify);
  const answered = useProject((p) => p.answered);
  const client = useQueryClient();
  const preview = usePreview(voice);
  const [aim, setAim] = useState<Schemas["ToneAim"]>("ranges");
  const [work, setWork] = useState<AbortController | null>(null);
  const [found, setFound] = useState<Schemas["IntoTones"] | null>(null);
  const bring = async () => {
    const mine = new AbortController();
    setWork(mine);
    try {
      const result = await api.intoTones(
        id,
        voice.id,
        { reference: reference.id, aim, layer: layer?.id ?? "", held: [] },
        mine.signal,
      );
      setFound(result);
      if (result.changed.length > 0) preview.hear(result.layers, `Into the tones of ${result.target}`);
    } catch (e) {
      if (!mine.signal.aborted) notify((e as Error).message);
    } finally {
      setWork(null);
    }
  };
  const take = async () => {
    if (!found) return;
    preview.take();
    setFound(null);
    await answered();
    const name = `Into ${found.target}`.slice(0, longestName);
    client.setQueryData(["attempts", id, voice.id], await api.keepAttempt(id, voice.id, name));
    notify(`${voice.name} has the tones of ${found.target}; an attempt of its own is kept.`, "info");
  };
  const value = (v: number | null | undefined, unit: string) =>
    v === null || v === undefined ? "–" : `${num(v, unit === "ms" ? 1 : 0)} ${unit}`;
  return (
    <div className="flex flex-col gap-2">
      <div className="flex flex-wrap items-center gap-2 text-sm">
        brought
        <select
          className="press h-8 px-1.5 text-sm"
          aria-label="Where in its tones"
          value={aim}
          onChange={(e) => setAim(e.target.value as Schemas["ToneAim"])}
        >
          {aims
            .filter(([a]) => a !== "nearest" || reference.profile?.habit)
            .map(([a, text]) => (
              <option key={a} value={a}>
                {text}
              </option>
            ))}
        </select>
        by the fewest changes
        <button
          type="button"
          className="press press-strong"
          disabled={!layer?.recipe || work !== null}
          title={layer?.recipe ? undefined : "Only a recipe can be brought into tones"}
          onClick={() => void bring()}
        >
          Bring it there
        </button>
        {work && (
          <button type="button" className="press" onClick={() => work.abort()}>
            Stop
          </button>
        )}
      </div>
      {found && (
        <div className="rowbox flex flex-col gap-1.5 px-3 py-2 text-xs">
          <table className="w-full" aria-label="Tones">
            <thead className="text-muted">
              <tr>
                <th className="text-left font-normal">measure</th>
                <th className="text-right font-normal">now</th>
                <th className="text-right font-normal">{found.target}</th>
              </tr>
            </thead>
            <tbody className="num">
              {found.parts.map((p) => (
                <tr key={p.name}>
                  <td className="font-sans">{p.name}</td>
                  <td className="text-right">{value(p.mine, p.unit)}</td>
                  <td className="text-right text-ref">
                    {p.low === null || p.high === null
                      ? "–"
                      : p.low === p.high
                        ? value(p.low, p.unit)
                        : `${num(p.low, 0)} to ${value(p.high, p.unit)}`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <ul className="flex flex-col gap-0.5" aria-label="What was changed">
            {found.changed.length === 0 && <li>It lies there already: nothing is changed.</li>}
            {found.changed.map((c) => (
              <li key={c.at + c.name}>
                {c.name}{" "}
                <span className="num">
                  {num(c.from, 1)} → {num(c.to, 1)} {c.unit}
                </span>
              </li>
            ))}
            {found.words.map((w) => (
              <li key={w} className="text-error">
                {w}
              </li>
            ))}
          </ul>
          {found.changed.length > 0 && (
            <div className="flex gap-2">
              <button type="button" className="press press-strong" onClick={() => void take()}>
                Use
              </button>
              <button
                type="button"
                className="press"
                onClick={() => {
                  preview.back();
                  setFound(null);
                }}
              >
                Back to what was there
              </button>
            </div>
          )}
        </div>
      )}
    </div>
  );
}
