// A project made of a reference: what it is made of is chosen, then each stage is shown with
// what came of it. It plays as it comes.
import { Check, Circle, LoaderCircle, TriangleAlert } from "lucide-react";
import { useEffect, useState } from "react";
import type { Schemas } from "../api/client";
import { useProject } from "../state/project";
import { useLibrary } from "../state/queries";
import { useRebuilding } from "../state/rebuilding";

const kinds: [Schemas["Sounds"], string, string][] = [
  ["fits", "fitted recipes", "Each drum is searched as a recipe of one's own"],
  ["samples", "the drums' own samples", "Each drum is taken out of the reference as a sample"],
  ["both", "both as layers", "The sample and the fitted recipe, layered"],
  ["kept", "a kit, brought nearer", "Sounds of a kit, only tuned and mixed towards the reference"],
];

/** What a rebuild is made of, and its beginning. */
export function RebuildChoice(p: { project: string; reference: Schemas["Reference"]; onClose: () => void }) {
  const recorded = p.reference.kind === "audio";
  const [sounds, setSounds] = useState<Schemas["Sounds"]>(recorded ? "fits" : "kept");
  const [kit, setKit] = useState("");
  const [busy, setBusy] = useState(false);
  const kits = (useLibrary().data?.kits ?? []).filter((k) => !k.own);
  const notify = useProject((s) => s.notify);
  const begin = async () => {
    setBusy(true);
    const said = await useRebuilding.getState().begin(p.project, {
      reference: p.reference.id,
      sounds,
      kit: sounds === "kept" ? kit : "",
      tries: 0,
      seed: 1,
    });
    setBusy(false);
    if (said) notify(said);
    else p.onClose();
  };
  return (
    <section aria-label="Rebuild" className="rowbox mb-3 flex flex-col gap-2 p-3 text-sm">
      <h2 className="text-xl">Rebuild “{p.reference.name}”</h2>
      <p className="text-muted">
        Its pattern and feel, a voice for each drum, levels and places become a project of your own: this one
        while it is empty, else a new one. All of it can be edited.
      </p>
      {recorded ? (
        <fieldset className="flex flex-wrap gap-x-4 gap-y-1" aria-label="Drums made of">
          {kinds.map(([id, text, hint]) => (
            <label key={id} className="flex items-center gap-1.5" title={hint}>
              <input
                type="radio"
                className="radio radio-xs"
                name="rebuild-sounds"
                checked={sounds === id}
                onChange={() => setSounds(id)}
              />
              {text}
            </label>
          ))}
        </fieldset>
      ) : (
        <p className="text-muted">It has no recording: its drums play in the sounds of a kit.</p>
      )}
      <div className="flex flex-wrap items-center gap-2">
        {sounds === "kept" && (
          <select
            className="press h-8 px-1.5"
            aria-label="Kit"
            value={kit}
            onChange={(e) => setKit(e.target.value)}
          >
            <option value="">the project's own kit</option>
            {kits.map((k) => (
              <option key={k.id} value={k.id}>
                {k.name}
              </option>
            ))}
          </select>
        )}
        <button type="button" className="press press-strong" disabled={busy} onClick={() => void begin()}>
          {busy ? "Beginning…" : "Rebuild it"}
        </button>
        <button type="button" className="press" onClick={p.onClose}>
          Cancel
        </button>
      </div>
    </section>
  );
}

/** A rebuild under way, or what came of it. */
export function RebuildReport({ project }: { project: string }) {
  const r = useRebuilding((s) => s.of[project]);
  const [giving, setGiving] = useState(false);
  useEffect(() => {
    void useRebuilding
      .getState()
      .takeUp(project)
      .catch(() => undefined);
  }, [project]);
  if (!r) return null;
  const { rebuilt, job } = r;
  const running = job.status === "running" || job.status === "waiting";
  const { stop, giveUp, forget } = useRebuilding.getState();
  return (
    <section
      aria-label="Rebuilding"
      className="rowbox mb-3 flex flex-col gap-2 p-3 text-sm"
      aria-busy={running}
    >
      <div className="flex items-center gap-2">
        <h2 className="grow text-xl">
          {running ? job.title : rebuilt.stopped ? "Stopped: what was made stays" : "Rebuilt"}
          {!running && rebuilt.measurable !== null && (
            <span className="ml-2 font-sans text-sm text-muted">
              {rebuilt.inside} of {rebuilt.measurable} values inside
            </span>
          )}
        </h2>
        {running ? (
          <>
            <button type="button" className="press h-7 px-2 text-xs" onClick={() => stop(project)}>
              Stop and keep
            </button>
            <button
              type="button"
              className="press h-7 px-2 text-xs"
              disabled={giving}
              onClick={() => {
                setGiving(true);
                void giveUp(project).finally(() => setGiving(false));
              }}
            >
              Give up
            </button>
          </>
        ) : (
          <button type="button" className="press h-7 px-2 text-xs" onClick={() => forget(project)}>
            Done
          </button>
        )}
      </div>
      {running && (
        <>
          <progress className="progress w-full" value={job.progress} max={1} aria-label="Rebuilt so far" />
          <p className="text-xs text-muted">
            {rebuilt.stages.length === 0
              ? `${job.stage || "reading"}…`
              : "Press Play: it is heard as it comes."}
          </p>
        </>
      )}
      <ol className="flex flex-col gap-1" aria-label="Stages">
        {rebuilt.stages.map((s) => (
          <li key={s.id} className="grid grid-cols-[18px_130px_1fr] items-start gap-2">
            <StepMark state={s.state} weak={s.weak.length > 0} />
            <span className={s.state === "waiting" ? "text-muted" : ""}>{s.title}</span>
            <span>
              {s.result}
              {s.weak.length > 0 && <span className="block text-xs text-muted">{s.weak.join(" ")}</span>}
            </span>
          </li>
        ))}
      </ol>
    </section>
  );
}

function StepMark({ state, weak }: { state: Schemas["StageState"]; weak: boolean }) {
  if (state === "running") return <LoaderCircle size={15} className="animate-spin" aria-label="under way" />;
  if (state === "done")
    return weak ? (
      <TriangleAlert size={15} className="text-late" aria-label="done, with something weak" />
    ) : (
      <Check size={15} className="text-success" aria-label="done" />
    );
  return <Circle size={13} className="text-muted" aria-label={state === "left" ? "left out" : "waits"} />;
}

/** What of each voice is still the reference's. */
export function OriginsTable({ voices }: { voices: Schemas["Origins"][] }) {
  const origin: Record<Schemas["Origin"], string> = {
    samples: "its own samples",
    fitted: "fitted to it",
    both: "samples and fitted",
    own: "your own",
  };
  const said = (v: boolean | null) => (v === null ? "–" : v ? "kept" : "your own");
  return (
    <table className="mb-3 w-full table-fixed text-sm" aria-label="Origins">
      <thead className="text-left text-xs text-muted">
        <tr>
          <th className="w-[110px] pl-2 font-normal">voice</th>
          <th className="w-[240px] font-normal">hits</th>
          <th className="font-normal">sound</th>
          <th className="font-normal">timing</th>
          <th className="font-normal">velocity</th>
        </tr>
      </thead>
      <tbody>
        {voices.map((v) => (
          <tr key={v.voice} className="bg-base-200">
            <th scope="row" className="rounded-l-lg py-1 pl-2 text-left font-semibold">
              {v.name}
            </th>
            <td>
              {v.same < 0 ? "–" : `${v.same} of ${v.hits} the reference's`}
              {v.missing > 0 ? `, ${v.missing} left out` : ""}
            </td>
            <td>{origin[v.sound]}</td>
            <td>{said(v.feel)}</td>
            <td className="rounded-r-lg">{said(v.velocity)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
