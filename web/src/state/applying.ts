// Differences that are being closed, and what came of the last ones, by project.
import { create } from "zustand";
import { api, type Job, type Schemas } from "../api/client";
import { watch } from "./jobs";
import { useProject } from "./project";

interface Applying {
  /** The job under way, by project. */
  jobs: Record<string, Job>;
  done: Record<string, Schemas["Applied"]>;
  /** Closes rows; none are all that lie outside. */
  apply: (project: string, rows: string[]) => Promise<void>;
  stop: (project: string) => void;
  forget: (project: string) => void;
}

const without = <T>(of: Record<string, T>, key: string) =>
  Object.fromEntries(Object.entries(of).filter(([k]) => k !== key));

export const useApplying = create<Applying>((set, get) => ({
  jobs: {},
  done: {},
  apply: async (project, rows) => {
    if (get().jobs[project]) return;
    const { answered, refresh, notify } = useProject.getState();
    set((s) => ({ done: without(s.done, project) }));
    try {
      await answered();
      const job = await api.applyRows(project, rows);
      set((s) => ({ jobs: { ...s.jobs, [project]: job } }));
      const last = await watch(job, (now) => set((s) => ({ jobs: { ...s.jobs, [project]: now } })));
      if (last.status === "failed") notify(last.error);
      if (last.status === "done") {
        const done = await api.applied(job.id);
        set((s) => ({ done: { ...s.done, [project]: done } }));
        if (useProject.getState().state?.id === project) await refresh();
      }
    } catch (e) {
      notify((e as Error).message);
    } finally {
      set((s) => ({ jobs: without(s.jobs, project) }));
    }
  },
  stop: (project) => {
    const job = get().jobs[project];
    if (job) void api.cancelJob(job.id).catch(() => undefined);
  },
  forget: (project) => set((s) => ({ done: without(s.done, project) })),
}));
