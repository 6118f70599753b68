// Off and on at the same loudness, at the same spot: a step, a chain, or all of it.
import { api } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { useProject } from "../../state/project";

const same = (a: { row: string; step: string } | null, row: string, step: string) =>
  a !== null && a.row === row && a.step === step;

/** Switches what is judged off, or all on again. */
export async function toggleJudge(row: string, step: string) {
  if (same(useMonitor.getState().judge, row, step)) {
    monitor.setJudge(null);
    return;
  }
  const { state, tell } = useProject.getState();
  if (!state) return;
  try {
    const { gain_db } = await api.judge(state.id, row, step);
    monitor.setJudge({ row, step, gain_db });
  } catch (e) {
    tell((e as Error).message);
  }
}

export const useJudged = (row: string, step: string) => useMonitor((m) => same(m.judge, row, step));
