// Which hits are selected, and where the cursor stands.
import { create } from "zustand";
import type { Edit, Hit, State } from "../api/client";

export type Tool = "draw" | "select" | "roll";

interface Selection {
  voice: string;
  tick: number;
  hits: { voice: string; hit: string }[];
  tool: Tool;
  /** Steps a beat on which hits are drawn; 0 is the lane's own grid. */
  snap: number;
  /** Strokes a beat of the rolls that are drawn. */
  rate: number;
  /** How far the selection is being dragged, ticks. */
  moved: number;
  set: (s: Partial<Omit<Selection, "set">>) => void;
}

export const useSelection = create<Selection>((set) => ({
  voice: "",
  tick: 0,
  hits: [],
  tool: "draw",
  snap: 0,
  rate: 8,
  moved: 0,
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

/** A hit with all it has, and how far after the first of its selection it stands. */
interface Copied {
  voice: string;
  ahead: number;
  hit: Hit;
}

let clipboard: Copied[] = [];

/** What is selected, without its place. */
function taken(state: State): { first: number; hits: Copied[] } {
  const sel = chosen(state, useSelection.getState().hits);
  const first = Math.min(...sel.map((s) => s.hit.tick));
  const hits = sel.map(({ ref, hit }) => ({
    voice: ref.voice,
    ahead: hit.tick - first,
    hit,
  }));
  return { first, hits };
}

/** The edit that puts hits down from a tick on; what lies beyond the end is left out. */
function putAt(hits: Copied[], at: number, total: number): Edit[] {
  const put = hits
    .filter((c) => at + c.ahead < total)
    .map((c) => ({ voice: c.voice, hit: { ...c.hit, tick: at + c.ahead } }));
  return put.length > 0 ? [{ op: "hit.put", hits: put }] : [];
}

export function copy(state: State) {
  const { hits } = taken(state);
  if (hits.length > 0) clipboard = hits;
}

/** Puts the copied hits at a tick. */
export const paste = (at: number, total: number): Edit[] => putAt(clipboard, at, total);

/** Repeats the selection some ticks later. */
export function repeat(state: State, later: number, total: number): Edit[] {
  const { first, hits } = taken(state);
  return hits.length > 0 ? putAt(hits, first + later, total) : [];
}
