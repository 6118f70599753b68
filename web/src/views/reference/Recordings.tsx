// Recordings and performances of other projects, to be used in this one too.
import { useQuery } from "@tanstack/react-query";
import { AudioLines, Music4 } from "lucide-react";
import { useState } from "react";
import { api } from "../../api/client";
import { minutes } from "../../parts/format";
import { useProject } from "../../state/project";
import { Wave } from "./Wave";

export function Recordings(p: { project: string; words: string[]; onUsed: () => void }) {
  const { data, error } = useQuery({
    queryKey: ["recordings", p.project],
    queryFn: () => api.recordings(p.project),
    staleTime: 0,
  });
  const [chosen, setChosen] = useState("");
  const use = useProject((s) => s.useRecording);
  const key = (r: { project: string; reference: string }) => `${r.project}/${r.reference}`;
  const shown = (data?.recordings ?? []).filter((r) => {
    const text = `${r.name} ${r.project_name}`.toLowerCase();
    return p.words.every((w) => text.includes(w));
  });
  const one = shown.find((r) => key(r) === chosen) ?? shown[0];
  const heard = useQuery({
    queryKey: ["recording", one?.project, one?.reference],
    queryFn: () => api.analysis(one?.project ?? "", one?.reference ?? ""),
    enabled: one !== undefined,
  }).data;
  if (error) return <p className="p-5 text-error">{error.message}</p>;
  if (data && data.recordings.length === 0)
    return (
      <p className="p-5 text-muted">
        No other project has a recording that this one lacks. What you bring into any project shows here.
      </p>
    );
  return (
    <div className="flex min-h-0 grow">
      <ul className="w-[330px] shrink-0 overflow-y-auto border-r border-line p-2" aria-label="Recordings">
        {shown.map((r) => (
          <li key={key(r)}>
            <button
              type="button"
              aria-pressed={r === one}
              onClick={() => setChosen(key(r))}
              className={`flex w-full cursor-pointer items-center gap-3 rounded-lg px-3 py-2 text-left ${
                r === one ? "bg-row" : "hover:bg-base-300"
              }`}
            >
              {r.kind === "midi" ? <Music4 size={16} /> : <AudioLines size={16} />}
              <span className="min-w-0">
                <span className="block truncate font-semibold">{r.name}</span>
                <span className="block truncate text-2xs text-muted">in {r.project_name}</span>
              </span>
            </button>
          </li>
        ))}
        {data && shown.length === 0 && <li className="p-3 text-muted">Nothing fits. Try fewer words.</li>}
      </ul>
      {one && (
        <div className="flex min-w-0 grow flex-col overflow-y-auto p-5">
          <h3 className="text-xl">{one.name}</h3>
          <p className="mb-3 text-sm text-muted">
            {one.kind === "midi" ? "a performance" : "a recording"} of {one.project_name}
            {heard && <span className="num">, {minutes(heard.duration_s)}</span>}
          </p>
          {heard && one.kind === "audio" && (
            <svg
              width={560}
              height={90}
              className="rowbox mb-3"
              role="img"
              aria-label="Wave of the recording"
            >
              <Wave
                project={one.project}
                reference={one.reference}
                from={0}
                to={heard.duration_s}
                width={560}
                height={90}
                colour="var(--ref)"
              />
            </svg>
          )}
          <ul className="mb-4 flex flex-col gap-1">
            {(heard?.facts ?? [])
              .filter((f) => f.text !== "")
              .map((f) => (
                <li key={`${f.id} ${f.family}`}>{f.text}</li>
              ))}
          </ul>
          <button
            type="button"
            className="press press-strong w-fit"
            onClick={async () => {
              await use({ project: one.project, reference: one.reference });
              p.onUsed();
            }}
          >
            Use as reference
          </button>
        </div>
      )}
    </div>
  );
}
