// Takes a row, a bus with its rows or a whole mix of another project; what would come
// along is reported before.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, type State } from "../../api/client";
import { useProject } from "../../state/project";

export function TakeFrom({ state, onDone }: { state: State; onDone: () => void }) {
  const take = useProject((s) => s.takeMix);
  const [from, setFrom] = useState("");
  const [what, setWhat] = useState("all");
  const projects = useQuery({ queryKey: ["projects"], queryFn: api.projects }).data?.projects ?? [];
  const other = useQuery({
    queryKey: ["project", from],
    queryFn: () => api.open(from),
    enabled: from !== "",
  }).data?.document;
  const comes = useQuery({
    queryKey: ["take", state.id, state.version, from, what],
    queryFn: () => api.takeMix(state.id, state.version, from, what, true),
    enabled: from !== "",
    retry: false,
  });
  return (
    <section
      aria-label="From another project"
      className="mb-2 flex flex-col gap-2 rounded-lg border border-line bg-base-200 p-3 text-sm"
    >
      <div className="flex flex-wrap items-center gap-2">
        <select
          className="press h-8 px-2"
          aria-label="Project"
          value={from}
          onChange={(e) => {
            setFrom(e.target.value);
            setWhat("all");
          }}
        >
          <option value="">choose a project…</option>
          {projects
            .filter((p) => p.id !== state.id)
            .map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
        </select>
        {other && (
          <select
            className="press h-8 px-2"
            aria-label="What is taken"
            value={what}
            onChange={(e) => setWhat(e.target.value)}
          >
            <option value="all">the whole mix</option>
            {other.mix.buses.map((b) => (
              <option key={b.id} value={`bus:${b.id}`}>
                bus {b.name} with its rows
              </option>
            ))}
            {other.kit.voices.map((v) => (
              <option key={v.id} value={v.id}>
                the row of {v.name}
              </option>
            ))}
          </select>
        )}
        <span className="grow" />
        <button
          type="button"
          className="press press-strong"
          disabled={from === "" || !comes.data}
          onClick={async () => {
            await take(from, what);
            onDone();
          }}
        >
          Use
        </button>
        <button type="button" className="press" onClick={onDone}>
          Close
        </button>
      </div>
      {comes.error && <p className="text-muted">{comes.error.message}</p>}
      {comes.data && (
        <ul className="list-disc pl-5 text-xs" aria-label="What comes along">
          {comes.data.comes.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
      )}
    </section>
  );
}
