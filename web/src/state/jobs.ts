// Long work on the server: what is under way, waits, or was interrupted.
import { create } from "zustand";
import { api, type Job } from "../api/client";

export const useJobs = create<{ jobs: Job[] }>(() => ({ jobs: [] }));

export const ended = (j: Job) => j.status === "done" || j.status === "failed" || j.status === "cancelled";

function put(job: Job) {
  const { jobs } = useJobs.getState();
  const known = jobs.some((j) => j.id === job.id);
  useJobs.setState({ jobs: known ? jobs.map((j) => (j.id === job.id ? job : j)) : [...jobs, job] });
}

const drop = (id: string) => useJobs.setState((s) => ({ jobs: s.jobs.filter((j) => j.id !== id) }));

/** Follows a job to its end and returns it; look is reported of every state on the way. */
export async function watch(job: Job, look: (now: Job, before: Job) => void = () => undefined): Promise<Job> {
  put(job);
  try {
    let now = job;
    while (!ended(now)) {
      await new Promise((done) => setTimeout(done, 120));
      const before = now;
      now = await api.job(job.id);
      put(now);
      look(now, before);
    }
    return now;
  } finally {
    drop(job.id);
  }
}

/** The jobs of a project, or of none, that the server still knows and nobody here follows. */
export async function found(project: string): Promise<Job[]> {
  const { jobs } = await api.jobs();
  const known = new Set(useJobs.getState().jobs.map((j) => j.id));
  return jobs.filter((j) => j.project === project && !ended(j) && !known.has(j.id));
}

/** Lists a job that was interrupted, until it is begun again or left. */
export const listInterrupted = put;

export async function leave(job: Job) {
  await api.cancelJob(job.id);
  if (job.status === "interrupted") drop(job.id);
}
