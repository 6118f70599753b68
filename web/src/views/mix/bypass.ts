// Off and on at the same loudness, at the same spot: an effect, a chain, or all of it.
import { api } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { useProject } from "../../state/project";

const same = (a: { row: string; effect: string } | null, row: string, effect: string) =>
  a !== null && a.row === row && a.effect === effect;

/** Bypasses something, or lets all be heard again. */
export async function toggleBypass(row: string, effect: string) {
  if (same(useMonitor.getState().bypass, row, effect)) {
    monitor.setBypass(null);
    return;
  }
  const { state, notify } = useProject.getState();
  if (!state) return;
  try {
    const { gain_db } = await api.bypassGain(state.id, row, effect);
    monitor.setBypass({ row, effect, gain_db });
  } catch (e) {
    notify((e as Error).message);
  }
}

export const useBypassed = (row: string, effect: string) => useMonitor((m) => same(m.bypass, row, effect));
