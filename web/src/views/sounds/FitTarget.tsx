// What a voice is fitted to: its target, a file, the tones of a profile, another voice.
import { useRef } from "react";
import type { Schemas, Voice } from "../../api/client";
import type { Fitted } from "./useFitting";

export function FitTarget({
  of: f,
  others,
  profiles,
}: {
  of: Fitted;
  others: Voice[];
  /** References with tones of the voice's family. */
  profiles: Schemas["Reference"][];
}) {
  const { asked } = f;
  const picker = useRef<HTMLInputElement>(null);
  return (
    <>
      <label className="flex items-center gap-1.5 text-sm">
        fit to
        <select
          className="press h-8 max-w-[190px] px-1.5 text-sm"
          aria-label="What it is fitted to"
          value={asked.aim}
          disabled={f.running}
          onChange={(e) =>
            e.target.value === "choose" ? picker.current?.click() : f.ask({ aim: e.target.value })
          }
        >
          {asked.aim === "" && <option value="">choose…</option>}
          {f.hasTarget && <option value="target">its target</option>}
          {asked.file && <option value="file">{asked.file.name}</option>}
          <option value="choose">a file…</option>
          {profiles.map((r) => (
            <option key={r.id} value={`tones:${r.id}`}>
              the tones of {r.name}
            </option>
          ))}
          {others.map((v) => (
            <option key={v.id} value={`voice:${v.id}`}>
              the {v.name}
            </option>
          ))}
        </select>
      </label>
      <input
        ref={picker}
        type="file"
        className="hidden"
        aria-label="A sound file to fit to"
        onChange={(e) => {
          void f.bring(e.target.files);
          e.target.value = "";
        }}
      />
    </>
  );
}
