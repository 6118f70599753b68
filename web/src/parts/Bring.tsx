// Bringing a reference: by picker or by dropping a file anywhere, with
// progress and cancel.
import { Upload } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { create } from "zustand";
import { ApiError, api, type Job, type Schemas } from "../api/client";
import { useProject } from "../state/project";
import { StretchChooser } from "./StretchChooser";

/** The file being listened to, what has been heard in it so far, and one of which a stretch must be chosen. */
export const useImport = create<{
  job: Job | null;
  soFar: Schemas["SoFar"] | null;
  long: Schemas["LongFile"] | null;
}>(() => ({ job: null, soFar: null, long: null }));

const accept = ".wav,.flac,.mp3,.aif,.aiff,.mid,.midi,audio/*,audio/midi";
const chooseStretch = "choose-stretch/";

export function bring(file: File) {
  return follow(file.name, (id) => api.importReference(id, file));
}

/** Brings a stretch of the long file that waits. */
export function bringStretch(long: Schemas["LongFile"], stretch: Schemas["Stretch"]) {
  return follow(long.name, (id) => api.importStretch(id, long.id, stretch));
}

async function follow(name: string, begin: (project: string) => Promise<Job>) {
  const { state, tell, open } = useProject.getState();
  if (!state) return;
  if (useImport.getState().job) {
    tell("One file is being listened to already. Wait for it or cancel it.");
    return;
  }
  try {
    let job = await begin(state.id);
    useImport.setState({ job, long: null });
    while (job.status === "running") {
      await new Promise((done) => setTimeout(done, 120));
      const before: number = job.shown;
      job = await api.job(job.id);
      useImport.setState({ job });
      // It may have ended in between, and then shows nothing any more.
      if (job.status === "running" && job.shown > before)
        await api.soFar(job.id).then(
          (soFar) => useImport.setState({ soFar }),
          () => undefined,
        );
    }
    if (job.status === "failed") tell(`${name}: ${job.error} Nothing was changed.`);
    else if (job.status === "cancelled") tell("Cancelled. Nothing was changed.", "info");
    else if (job.result.startsWith(chooseStretch))
      useImport.setState({ long: await api.long(job.result.slice(chooseStretch.length)) });
    else {
      await open(state.id);
      tell(`${name} is now the reference.`, "info");
    }
  } catch (e) {
    tell(
      e instanceof ApiError ? `${name}: ${e.message} Nothing was changed.` : "The file could not be sent.",
    );
  } finally {
    useImport.setState({ job: null, soFar: null });
  }
}

export function BringButton({
  strong = false,
  text = "Bring a reference",
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

/** Progress of the file being listened to, and the drop target of the page. */
export function BringStatus() {
  const job = useImport((i) => i.job);
  const long = useImport((i) => i.long);
  const [over, setOver] = useState(false);
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
      const file = e.dataTransfer?.files[0];
      if (file) void bring(file);
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
  return (
    <>
      {over && (
        <div className="pointer-events-none fixed inset-3 z-50 flex items-center justify-center rounded-2xl border-2 border-dashed border-ref bg-base-100/85 font-display text-2xl font-semibold">
          Drop it to make it the reference
        </div>
      )}
      {long && <StretchChooser key={long.id} long={long} />}
      {job && (
        <div
          className="fixed bottom-[76px] left-1/2 z-40 flex w-[440px] -translate-x-1/2 items-center gap-4 rounded-xl border border-line bg-base-100 px-4 py-3 shadow-lg"
          role="status"
        >
          <div className="grow">
            <div className="flex text-[13px]">
              <span className="grow truncate">{job.title}</span>
              <span className="num">{Math.round(job.progress * 100)} %</span>
            </div>
            <progress
              className="progress progress-primary h-1.5 w-full"
              value={job.progress}
              max={1}
              aria-label="Listening"
            />
            <div className="text-[12px] text-muted">{stages[job.stage] ?? job.stage}</div>
          </div>
          <button type="button" className="press" onClick={() => void api.cancelJob(job.id)}>
            Cancel
          </button>
        </div>
      )}
    </>
  );
}
