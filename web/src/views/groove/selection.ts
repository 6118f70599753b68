// Which hits are selected, and where the cursor stands.
import { create } from "zustand";
import type { Edit, Hit, State } from "../../api/client";

export type Tool = "draw" | "select";

interface Selection {
  voice: string;
  tick: number;
  hits: { voice: string; hit: string }[];
  tool: Tool;
  set: (s: Partial<Omit<Selection, "set">>) => void;
}

export const useSelection = create<Selection>((set) => ({
  voice: "",
  tick: 0,
  hits: [],
  tool: "draw",
  set: (s) => set(s),
}));

export const laneOf = (state: State, voice: string): Hit[] =>
  state.document.groove.lanes.find((l) => l.voice === voice)?.hits ?? [];

/** The selected hits that still exist, with their data. */
export function chosen(state: State, hits: { voice: string; hit: string }[]) {
  return hits.flatMap((ref) => {
    const hit = laneOf(state, ref.voice).find((h) => h.id === ref.hit);
    return hit ? [{ ref, hit }] : [];
  });
}

interface Copied {
  voice: string;
  ahead: number;
  velocity: number;
}

let clipboard: Copied[] = [];

export function copy(state: State) {
  const sel = chosen(state, useSelection.getState().hits);
  const first = Math.min(...sel.map((s) => s.hit.tick));
  clipboard = sel.map((s) => ({ voice: s.ref.voice, ahead: s.hit.tick - first, velocity: s.hit.velocity }));
}

/** Edits that put the copied hits at a tick; what lies beyond the end is left out. */
export function paste(at: number, total: number): Edit[] {
  return clipboard
    .filter((c) => at + c.ahead < total)
    .map((c) => ({ op: "hit.add", voice: c.voice, tick: at + c.ahead, value: c.velocity }));
}

/** Edits that repeat the selection some ticks later. */
export function repeat(state: State, later: number, total: number): Edit[] {
  return chosen(state, useSelection.getState().hits)
    .filter((s) => s.hit.tick + later < total)
    .map((s) => ({ op: "hit.add", voice: s.ref.voice, tick: s.hit.tick + later, value: s.hit.velocity }));
}
