import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Plus, Search, Upload } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { ApiError, api, type Job, type Schemas } from "../../api/client";
import { DropHint, JobBar, useDropped } from "../../parts/Bring";
import { bytes } from "../../parts/format";
import { bring, useImport } from "../../parts/importing";
import { ended, found, listInterrupted, useJobs, watch } from "../../state/jobs";
import { useProject } from "../../state/project";
import { useRebuilding } from "../../state/rebuilding";
import { go } from "../../state/route";
import { ProjectCard } from "./ProjectCard";

type Summary = Schemas["Summary"];

const orders: Record<string, { text: string; by: (a: Summary, b: Summary) => number }> = {
  changed: { text: "last changed", by: (a, b) => b.updated.localeCompare(a.updated) },
  name: { text: "name", by: (a, b) => a.name.localeCompare(b.name) },
  tempo: { text: "tempo", by: (a, b) => a.tempo_bpm - b.tempo_bpm },
  outside: { text: "values out of tolerance", by: (a, b) => (b.outside ?? -1) - (a.outside ?? -1) },
  size: { text: "size", by: (a, b) => b.size_bytes - a.size_bytes },
};

/** The projects whose name, reference or tempo has all the words. */
export function matching(list: Summary[], text: string): Summary[] {
  const words = text.toLowerCase().split(/\s+/).filter(Boolean);
  return list.filter((p) => {
    const all = `${p.name} ${p.reference} ${Math.round(p.tempo_bpm)} ${p.meter}`.toLowerCase();
    return words.every((w) => all.includes(w));
  });
}

/** Waits until a project is on show. */
const opened = (id: string) =>
  new Promise<void>((done) => {
    const is = () => useProject.getState().state?.id === id;
    if (is()) return done();
    const stop = useProject.subscribe(() => {
      if (!is()) return;
      stop();
      done();
    });
  });

export function Home() {
  const { data, error } = useQuery({
    queryKey: ["projects"],
    queryFn: api.projects,
    refetchOnMount: "always",
  });
  const client = useQueryClient();
  const notify = useProject((p) => p.notify);
  const [name, setName] = useState("");
  const [text, setText] = useState("");
  const [order, setOrder] = useState("changed");
  const input = useRef<HTMLInputElement>(null);
  const again = () => client.invalidateQueries({ queryKey: ["projects"] });
  const said = (e: unknown, otherwise: string) => notify(e instanceof Error ? e.message : otherwise);
  const create = async () => {
    try {
      const state = await api.create(name.trim() || "Untitled");
      go(state.id, "reference");
    } catch (e) {
      said(e, "The project could not be made. Nothing was changed; try again.");
    }
  };
  const follow = async (job: Job) => {
    const end = await watch(job);
    if (end.status === "failed")
      notify(`${end.title.replace(/^Opening /, "")}: ${end.error} Nothing was changed.`);
    if (end.status === "done") notify(end.notes.join(" "), "info");
    await again();
  };
  const open = async (file: File) => {
    try {
      await follow(await api.importArchive(file));
    } catch (e) {
      notify(
        e instanceof ApiError
          ? `${file.name}: ${e.message}`
          : "The file could not be sent. Nothing was changed. Check that Jubrak is running, then try again.",
      );
    }
  };
  const rebuild = async (file: File) => {
    try {
      const state = await api.create(file.name.replace(/\.[^.]+$/, "").slice(0, 120) || "Rebuilt");
      go(state.id, "reference");
      await opened(state.id);
      await bring(file);
      if (!useProject.getState().state?.document.active_reference) {
        if (useImport.getState().long) return; // a stretch of it is chosen first
        await api.remove(state.id); // what is wrong with the file was said
        return go(null);
      }
      useRebuilding.getState().choose(true);
      go(state.id, "compare");
    } catch (e) {
      notify(
        e instanceof ApiError
          ? `${file.name}: ${e.message}`
          : "The file could not be sent. Nothing was changed. Check that Jubrak is running, then try again.",
      );
    }
  };
  const restart = async (job: Job) => follow(await api.restartJob(job.id)).catch((e) => said(e, ""));
  const over = useDropped((files) => {
    const recording = files.find((f) => /\.(wav|flac|mp3|aiff?|midi?)$/i.test(f.name));
    for (const file of files) if (file !== recording) void open(file);
    if (recording) void rebuild(recording);
  });
  const jobs = useJobs((j) => j.jobs).filter((j) => j.project === "");
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when the list is opened
  useEffect(() => {
    void found("").then(
      (list) => {
        for (const j of list) {
          if (j.status === "interrupted") listInterrupted(j);
          else if (!ended(j)) void follow(j);
        }
      },
      () => undefined,
    );
  }, []);
  useJudging(data?.projects, again);
  const shown = useMemo(
    () => matching(data?.projects ?? [], text).sort(orders[order]?.by),
    [data, text, order],
  );
  const all = data?.projects.length ?? 0;
  return (
    <main className="h-full overflow-y-auto">
      {over && <DropHint text="Drop a recording to rebuild it, or a project file to open it" />}
      <div className="mx-auto max-w-[980px] px-6 py-10">
        <div className="mb-7 flex items-end gap-8">
          <div className="grow">
            <h1 className="font-display text-4xl font-bold">
              jubrak<span className="text-primary">.</span>
            </h1>
            <p className="mt-2 max-w-[560px] text-lg text-muted">
              Drums that feel and sound like they belong beside your reference: hear it, measure it, build
              towards it, and see how far apart the two still are. Drop a recording here, and it is rebuilt.
            </p>
          </div>
        </div>
        <form
          className="mb-7 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void create();
          }}
        >
          <input
            className="h-10 grow rounded-lg border border-line bg-base-200 px-3 text-lg"
            placeholder="Name of the new project"
            aria-label="Name of the new project"
            maxLength={120}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <button type="submit" className="press press-strong h-10 px-4 text-lg">
            <Plus size={17} /> New project
          </button>
          <button
            type="button"
            className="press h-10 px-4 text-lg"
            title="Opens a project that was exported (.jubrak); you can also drop it here"
            onClick={() => input.current?.click()}
          >
            <Upload size={16} /> Open a project file
          </button>
          <input
            ref={input}
            type="file"
            accept=".jubrak"
            multiple
            className="hidden"
            aria-label="Project file"
            onChange={(e) => {
              const files = [...(e.target.files ?? [])];
              e.target.value = "";
              for (const f of files) void open(f);
            }}
          />
        </form>
        {jobs.length > 0 && (
          <div className="mb-6 flex flex-col gap-2">
            {jobs.map((j) => (
              <JobBar key={j.id} job={j} onAgain={(job) => void restart(job)} />
            ))}
          </div>
        )}
        <div className="mb-2 flex items-center gap-3">
          <h2 className="text-xl">Projects</h2>
          <span className="grow text-xs text-muted">
            {data && (
              <>
                <span className="num">{all}</span> in a data folder of{" "}
                <span className="num">{bytes(data.size_bytes)}</span>
              </>
            )}
          </span>
          {all > 1 && (
            <>
              <label className="relative">
                <Search size={14} className="absolute top-2 left-2.5 text-muted" aria-hidden="true" />
                <input
                  type="search"
                  aria-label="Search projects"
                  placeholder="name, reference, tempo"
                  className="h-8 w-[220px] rounded-lg border border-line bg-base-200 pr-2 pl-8 text-sm"
                  value={text}
                  onChange={(e) => setText(e.target.value)}
                />
              </label>
              <label className="flex items-center gap-1.5 text-sm">
                by
                <select className="press px-1.5" value={order} onChange={(e) => setOrder(e.target.value)}>
                  {Object.entries(orders).map(([id, o]) => (
                    <option key={id} value={id}>
                      {o.text}
                    </option>
                  ))}
                </select>
              </label>
            </>
          )}
        </div>
        {error && <p className="text-error">{error.message}</p>}
        {all === 0 && data && (
          <p className="text-muted">
            None yet. Name one above, drop a project file here, or run{" "}
            <code className="num">jubrak demo</code> to open the demo projects.
          </p>
        )}
        {all > 0 && shown.length === 0 && <p className="text-muted">No project has all of “{text}”.</p>}
        <ul className="flex flex-col gap-1.5">
          {shown.map((p) => (
            <ProjectCard key={p.id} project={p} onChanged={again} />
          ))}
        </ul>
      </div>
    </main>
  );
}

/** Compares the projects that have not been since they changed, one after the other. */
function useJudging(list: Summary[] | undefined, again: () => Promise<void>) {
  const tried = useRef(new Set<string>());
  const busy = useRef(false);
  useEffect(() => {
    const next = list?.find(
      (p) => p.reference !== "" && p.outside === null && !tried.current.has(`${p.id} ${p.version}`),
    );
    if (!next || busy.current) return;
    busy.current = true;
    tried.current.add(`${next.id} ${next.version}`);
    void api
      .compare(next.id)
      .catch(() => undefined) // what is missing is reported in the project itself
      .finally(() => {
        busy.current = false;
        void again();
      });
  }, [list, again]);
}
