import { create } from "zustand";
import { ApiError, api, type Job, type Schemas } from "../api/client";
import { ended, found, listInterrupted, watch } from "../state/jobs";
import { useProject } from "../state/project";

/** What has been heard so far of the file being listened to, and one of which a stretch must be chosen. */
export const useImport = create<{
  job: Job | null;
  soFar: Schemas["SoFar"] | null;
  long: Schemas["LongFile"] | null;
}>(() => ({ job: null, soFar: null, long: null }));

/** Brings a stretch of the long file that waits. */
export function bringStretch(long: Schemas["LongFile"], stretch: Schemas["Stretch"]) {
  return begin(long.name, (id) => api.importStretch(id, long.id, stretch));
}

const chooseStretch = "choose-stretch/";

export function bring(file: File) {
  return begin(file.name, (id) => api.importReference(id, file));
}

async function begin(name: string, start: (project: string) => Promise<Job>) {
  const { state, notify } = useProject.getState();
  if (!state) return;
  try {
    const job = await start(state.id);
    useImport.setState({ long: null });
    await follow(name, state.id, job);
  } catch (e) {
    notify(
      e instanceof ApiError
        ? `${name}: ${e.message} Nothing was changed.`
        : "The file could not be sent. Nothing was changed. Check that Jubrak is running, then try again.",
    );
  }
}

/** Follows a job that brings a reference, shows what is heard, and says how it ended. */
async function follow(name: string, project: string, begun: Job) {
  const { notify, refresh } = useProject.getState();
  const job = await watch(begun, (now, before) => {
    if (now.status !== "running") return;
    const shown = useImport.getState().job;
    if (shown && shown.id !== now.id && !ended(shown)) return; // another is shown
    useImport.setState({ job: now });
    // It may have ended in between, and then shows nothing any more.
    if (now.shown > before.shown)
      void api.soFar(now.id).then(
        (soFar) => useImport.getState().job?.id === now.id && useImport.setState({ soFar }),
        () => undefined,
      );
  });
  if (useImport.getState().job?.id === job.id) useImport.setState({ job: null, soFar: null });
  if (useProject.getState().state?.id !== project) return;
  if (job.status === "failed") notify(`${name}: ${job.error} Nothing was changed.`);
  else if (job.status === "cancelled") notify("Cancelled. Nothing was changed.", "info");
  else if (job.result.startsWith(chooseStretch))
    useImport.setState({ long: await api.long(job.result.slice(chooseStretch.length)) });
  else {
    await refresh();
    notify(`${name} is now the reference.`, "info");
  }
}

export const nameOf = (job: Job) => job.title.replace(/^(Listening to|Opening) /, "");

/** Takes up work that went on, waits or was interrupted when the page was left. */
export async function takeUp(project: string) {
  for (const job of await found(project)) {
    if (job.kind !== "") continue; // the view that began it takes it up
    if (job.status === "interrupted") listInterrupted(job);
    else void follow(nameOf(job), project, job).catch(() => undefined);
  }
}

export async function again(job: Job) {
  await follow(nameOf(job), job.project, await api.restartJob(job.id)).catch((e: Error) =>
    useProject.getState().notify(e.message),
  );
}
