// A project that is being made of a reference: it goes on while other views are looked at,
// and after the page was left.
import { create } from "zustand";
import { api, type Job, type Schemas } from "../api/client";
import { ended } from "./jobs";
import { useProject } from "./project";
import { go } from "./route";

export interface Rebuilding {
  job: Job;
  rebuilt: Schemas["Rebuilt"];
}

interface State {
  /** By the project that is made. */
  of: Record<string, Rebuilding>;
  /** What a rebuild is to be made of is being chosen, in Compare. */
  choosing: boolean;
  choose: (choosing: boolean) => void;
  /** Begins a rebuild and shows it; a sentence where it could not begin. */
  begin: (project: string, ask: Schemas["RebuildAsk"]) => Promise<string>;
  /** Takes up one that goes on on the server. */
  takeUp: (project: string) => Promise<void>;
  /** Stops it; what is made stays. */
  stop: (project: string) => void;
  /** Stops it and takes back what it made. */
  giveUp: (project: string) => Promise<void>;
  forget: (project: string) => void;
}

const without = (of: Record<string, Rebuilding>, project: string) =>
  Object.fromEntries(Object.entries(of).filter(([k]) => k !== project));

export const useRebuilding = create<State>((set, get) => {
  const follow = async (project: string, begun: Job) => {
    let job = begun;
    let changes = -1;
    for (;;) {
      const rebuilt = await api.rebuilt(job.id).catch(() => null);
      const last = job;
      if (rebuilt) {
        if (get().of[project] && get().of[project]?.job.id !== job.id) return;
        set((s) => ({ of: { ...s.of, [project]: { job: last, rebuilt } } }));
        if (rebuilt.changes !== changes && useProject.getState().state?.id === project) {
          changes = rebuilt.changes;
          await useProject.getState().refresh();
        }
      }
      if (ended(job)) break;
      await new Promise((done) => setTimeout(done, 300));
      job = await api.job(job.id);
    }
    if (job.status === "failed") {
      set((s) => ({ of: without(s.of, project) }));
      useProject.getState().notify(job.error);
    }
  };
  return {
    of: {},
    choosing: false,
    choose: (choosing) => set({ choosing }),
    begin: async (project, ask) => {
      try {
        await useProject.getState().answered();
        const job = await api.rebuild(project, ask);
        const rebuilt = await api.rebuilt(job.id);
        set((s) => ({ of: { ...s.of, [rebuilt.project]: { job, rebuilt } } }));
        go(rebuilt.project, "compare");
        void follow(rebuilt.project, job);
        return "";
      } catch (e) {
        return (e as Error).message;
      }
    },
    takeUp: async (project) => {
      if (get().of[project]) return;
      const { jobs } = await api.jobs();
      const job = jobs.find((j) => j.project === project && !ended(j) && j.kind === "rebuild");
      if (job) await follow(project, job);
    },
    stop: (project) => {
      const r = get().of[project];
      if (r) void api.cancelJob(r.job.id).catch(() => undefined);
    },
    giveUp: async (project) => {
      const r = get().of[project];
      if (!r) return;
      await api.cancelJob(r.job.id).catch(() => undefined);
      for (let n = 0; n < 100 && !ended(await api.job(r.job.id)); n++)
        await new Promise((done) => setTimeout(done, 100));
      const made = await api.rebuilt(r.job.id);
      set((s) => ({ of: without(s.of, project) }));
      const { refresh, undo, notify } = useProject.getState();
      if (made.new) {
        await api.remove(project);
        go(null);
      } else {
        await refresh();
        for (let n = 0; n < made.changes; n++) await undo();
      }
      notify("Given up: all is as it was before.", "info");
    },
    forget: (project) => set((s) => ({ of: without(s.of, project) })),
  };
});
