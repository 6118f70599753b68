// Bringing a reference: by picker or by dropping a file anywhere, with
// progress and cancel.
import { Upload } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { Job } from "../api/client";
import { leave, useJobs } from "../state/jobs";
import { useProject } from "../state/project";
import { again, bring, nameOf, takeUp, useImport } from "./importing";
import { StretchChooser } from "./StretchChooser";

const accept = ".wav,.flac,.mp3,.aif,.aiff,.mid,.midi,audio/*,audio/midi";

export function BringButton({
  strong = false,
  text = "Import a reference",
}: {
  strong?: boolean;
  text?: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <button
        type="button"
        className={`press ${strong ? "press-strong" : ""}`}
        onClick={() => input.current?.click()}
      >
        <Upload size={15} /> {text}
      </button>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label="Reference file"
        onChange={(e) => {
          const file = e.target.files?.[0];
          e.target.value = "";
          if (file) void bring(file);
        }}
      />
    </>
  );
}

export const stages: Record<string, string> = {
  opening: "opening the project file",
  decoding: "reading the file",
  surveying: "looking through a long file",
  loudness: "measuring loudness",
  preparing: "preparing",
  spectrum: "looking at the spectrum",
  hits: "finding hits",
  timing: "timing each hit",
  beats: "finding the beat",
  tone: "measuring the kick",
};

/** A job as a bar: how far it has come, and a way to stop it, or to begin it again. */
export function JobBar({ job, onAgain }: { job: Job; onAgain: (job: Job) => void }) {
  const notify = useProject((p) => p.notify);
  const stop = () => void leave(job).catch((e: Error) => notify(e.message));
  return (
    <div
      className="flex items-center gap-4 rounded-xl border border-line bg-base-100 px-4 py-3 shadow-lg"
      role="status"
    >
      <div className="min-w-0 grow">
        <div className="flex text-sm">
          <span className="grow truncate">{job.title}</span>
          {job.status === "running" && <span className="num">{Math.round(job.progress * 100)} %</span>}
        </div>
        {job.status === "running" && (
          <progress
            className="progress progress-primary h-1.5 w-full"
            value={job.progress}
            max={1}
            aria-label="Progress"
          />
        )}
        <div className="text-xs text-muted">
          {job.status === "interrupted"
            ? "Interrupted when Jubrak closed. The file is kept."
            : job.status === "waiting"
              ? job.ahead === 1
                ? "Queued, next"
                : `Queued, ${job.ahead - 1} ahead`
              : (stages[job.stage] ?? job.stage)}
        </div>
      </div>
      {job.status === "interrupted" && (
        <button type="button" className="press press-strong" onClick={() => onAgain(job)}>
          Start again
        </button>
      )}
      <button type="button" className="press" onClick={stop}>
        {job.status === "interrupted" ? "Discard" : "Cancel"}
      </button>
    </div>
  );
}

/** Files that are dropped anywhere on the page. */
export function useDropped(onFiles: (files: File[]) => void): boolean {
  const [over, setOver] = useState(false);
  const take = useRef(onFiles);
  take.current = onFiles;
  useEffect(() => {
    const isFile = (e: DragEvent) => e.dataTransfer?.types.includes("Files") ?? false;
    const onOver = (e: DragEvent) => {
      if (!isFile(e)) return;
      e.preventDefault();
      setOver(true);
    };
    const onLeave = (e: DragEvent) => {
      if (e.relatedTarget === null) setOver(false);
    };
    const onDrop = (e: DragEvent) => {
      if (!isFile(e)) return;
      e.preventDefault();
      setOver(false);
      take.current([...(e.dataTransfer?.files ?? [])]);
    };
    addEventListener("dragover", onOver);
    addEventListener("dragleave", onLeave);
    addEventListener("drop", onDrop);
    return () => {
      removeEventListener("dragover", onOver);
      removeEventListener("dragleave", onLeave);
      removeEventListener("drop", onDrop);
    };
  }, []);
  return over;
}

export function DropHint({ text }: { text: string }) {
  return (
    <div className="pointer-events-none fixed inset-3 z-50 flex items-center justify-center rounded-2xl border-2 border-dashed border-ref bg-base-100/85 font-display text-3xl font-semibold">
      {text}
    </div>
  );
}

/** Several jobs that were interrupted together, as one bar. */
function Interrupted({ jobs, onAgain }: { jobs: Job[]; onAgain: (job: Job) => void }) {
  const notify = useProject((p) => p.notify);
  const names = jobs.map(nameOf).join(", ");
  return (
    <div
      className="flex items-center gap-3 rounded-xl border border-line bg-base-100 px-4 py-3 shadow-lg"
      role="status"
    >
      <div className="min-w-0 grow">
        <div className="text-sm">
          <span className="num">{jobs.length}</span> files were on their way when Jubrak was closed; they are
          kept.
        </div>
        <div className="truncate text-xs text-muted" title={names}>
          {names}
        </div>
      </div>
      <button type="button" className="press press-strong" onClick={() => jobs.forEach(onAgain)}>
        Start again
      </button>
      <button
        type="button"
        className="press"
        onClick={() => void Promise.all(jobs.map(leave)).catch((e: Error) => notify(e.message))}
      >
        Discard all
      </button>
    </div>
  );
}

/** How many bars of jobs are on show at once. */
const mostBars = 3;

/** Progress of the files being listened to, and the drop target of the page. */
export function BringStatus({ project }: { project: string }) {
  const jobs = useJobs((j) => j.jobs).filter((j) => j.project === project && j.kind === "");
  const stopped = jobs.filter((j) => j.status === "interrupted");
  const grouped = stopped.length > 1;
  const single = grouped ? jobs.filter((j) => j.status !== "interrupted") : jobs;
  const long = useImport((i) => i.long);
  const over = useDropped((files) => {
    for (const file of files) void bring(file);
  });
  useEffect(() => {
    void takeUp(project).catch(() => undefined); // the project itself reports that the server is gone
  }, [project]);
  return (
    <>
      {over && <DropHint text="Drop it to make it the reference" />}
      {long && <StretchChooser key={long.id} long={long} />}
      <div className="fixed bottom-[76px] left-1/2 z-40 flex w-[520px] -translate-x-1/2 flex-col gap-2">
        {single.slice(0, mostBars).map((job) => (
          <JobBar key={job.id} job={job} onAgain={(j) => void again(j)} />
        ))}
        {single.length > mostBars && (
          <p className="rounded-lg bg-base-100 px-4 py-1 text-xs text-muted">
            and {single.length - mostBars} more in line
          </p>
        )}
        {grouped && <Interrupted jobs={stopped} onAgain={(j) => void again(j)} />}
      </div>
    </>
  );
}
