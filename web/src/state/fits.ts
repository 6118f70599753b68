// Fits under way and their results, by voice: they go on while other views are looked at.
import { create } from "zustand";
import { api, type Job, type Layer, type Schemas } from "../api/client";
import { ended } from "./jobs";

export interface Fitting {
  job: Job;
  soFar: Schemas["FitSoFar"] | null;
  /** Ended by the user before its time. */
  stopped: boolean;
  /** The voice's layers as they were when it began. */
  before: Layer[];
}

/** What is asked of a voice's next fit: it stays while other voices and views are looked at. */
export interface Asked {
  /** "target", "file", "voice:" or "tones:" with an id; empty is the target where there is one. */
  aim: string;
  file: Schemas["FitFile"] | null;
  kind: Schemas["FitKind"];
  parts: string[];
  held: string[];
  effects: boolean;
  tries: number;
  seed: number;
}

export const fitParts = ["body", "snap", "noise", "metal", "ring"] as const;

const asked: Asked = {
  aim: "",
  file: null,
  kind: "recipe",
  parts: [...fitParts],
  held: [],
  effects: true,
  tries: 1000,
  seed: 1,
};

const key = (project: string, voice: string) => `${project}/${voice}`;

interface Fits {
  fits: Record<string, Fitting>;
  asked: Record<string, Asked>;
  ask: (project: string, voice: string, part: Partial<Asked>) => void;
  /** Begins a fit and follows it; a sentence where it failed. */
  begin: (project: string, voice: string, ask: Schemas["FitAsk"], before: Layer[]) => Promise<string>;
  /** Stops the search; what is nearest stays. */
  stop: (project: string, voice: string) => Promise<void>;
  /** Forgets a fit; one that is under way is stopped. */
  forget: (project: string, voice: string) => void;
}

export const useFits = create<Fits>((set, get) => ({
  fits: {},
  asked: {},
  ask: (project, voice, part) =>
    set((s) => {
      const k = key(project, voice);
      return { asked: { ...s.asked, [k]: { ...(s.asked[k] ?? asked), ...part } } };
    }),
  begin: async (project, voice, ask, before) => {
    const k = key(project, voice);
    const mine = (job: Job) => get().fits[k]?.job.id === job.id;
    const put = (part: Partial<Fitting>) =>
      set((s) => ({ fits: { ...s.fits, [k]: { ...(s.fits[k] as Fitting), ...part } } }));
    get().forget(project, voice);
    try {
      const job = await api.fit(project, voice, ask);
      put({ job, soFar: null, stopped: false, before });
      let last = job;
      while (!ended(last)) {
        await new Promise((done) => setTimeout(done, 250));
        last = await api.job(job.id);
        const soFar = await api.fitted(job.id).catch(() => null);
        if (mine(job)) put({ job: last, ...(soFar && soFar.layers.length > 0 ? { soFar } : {}) });
      }
      if (!mine(job)) return "";
      const soFar = await api.fitted(job.id).catch(() => null);
      if (!mine(job)) return "";
      put({ job: last, ...(soFar && soFar.layers.length > 0 ? { soFar } : {}) });
      if (last.status !== "failed") return "";
      get().forget(project, voice);
      return last.error;
    } catch (e) {
      return (e as Error).message;
    }
  },
  stop: async (project, voice) => {
    const f = get().fits[key(project, voice)];
    if (!f) return;
    set((s) => ({ fits: { ...s.fits, [key(project, voice)]: { ...f, stopped: true } } }));
    await api.cancelJob(f.job.id).catch(() => undefined);
  },
  forget: (project, voice) => {
    const k = key(project, voice);
    const f = get().fits[k];
    if (!f) return;
    if (f.job.status === "running" || f.job.status === "waiting")
      void api.cancelJob(f.job.id).catch(() => undefined);
    set((s) => ({ fits: Object.fromEntries(Object.entries(s.fits).filter(([name]) => name !== k)) }));
  },
}));

export const useFit = (project: string, voice: string) => useFits((s) => s.fits[key(project, voice)]);

export const useAsked = (project: string, voice: string) =>
  useFits((s) => s.asked[key(project, voice)] ?? asked);
