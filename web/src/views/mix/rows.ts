// The rows of the mix as the document has them, and what is chosen of them.
import { create } from "zustand";
import type { Document, Schemas } from "../../api/client";

export type Effect = Schemas["Effect"];

export interface MixRow {
  /** As in addresses: a voice, "bus:" with a bus, or "out". */
  row: string;
  name: string;
  /** Of a voice. */
  family: string;
  kind: "voice" | "bus" | "out";
  level: number;
  pan: number | null;
  mute: boolean;
  chain: Effect[];
  /** The bus that it goes to; empty is the output. */
  to: string;
  sends: Schemas["Send"][];
  /** The row whose chain it follows; empty is a chain of its own. */
  like: string;
  /** How many numbers differ from it. */
  own: number;
}

export function rowsOf(doc: Document): MixRow[] {
  return [
    ...doc.kit.voices.map((v) => ({
      row: v.id,
      name: v.name,
      family: v.family as string,
      kind: "voice" as const,
      level: v.level_db,
      pan: v.pan,
      mute: v.mute,
      chain: v.chain,
      to: v.to,
      sends: v.sends,
      like: v.like ?? "",
      own: Object.keys(v.own ?? {}).length,
    })),
    ...doc.mix.buses.map((b) => ({
      row: `bus:${b.id}`,
      name: b.name,
      family: "",
      kind: "bus" as const,
      level: b.level_db,
      pan: b.pan,
      mute: b.mute,
      chain: b.chain,
      to: b.to,
      sends: b.sends,
      like: b.like ?? "",
      own: Object.keys(b.own ?? {}).length,
    })),
    {
      row: "out",
      name: "Output",
      family: "",
      kind: "out" as const,
      level: doc.mix.out.level_db,
      pan: null,
      mute: false,
      chain: doc.mix.out.chain,
      to: "",
      sends: [],
      like: "",
      own: 0,
    },
  ];
}

/** An effect of a chain, those within effects too. */
export function findEffect(chain: Effect[], id: string): Effect | null {
  for (const s of chain) {
    if (s.id === id) return s;
    for (const p of s.paths ?? []) {
      const found = findEffect(p, id);
      if (found) return found;
    }
  }
  return null;
}

/** The list that an effect stands in, and where: the chain, or a path of another effect. */
export function placeOf(
  chain: Effect[],
  id: string,
): { list: Effect[]; at: number; in: string; path: number } | null {
  const look = (list: Effect[], within: string, path: number): ReturnType<typeof placeOf> => {
    const at = list.findIndex((s) => s.id === id);
    if (at >= 0) return { list, at, in: within, path };
    for (const s of list)
      for (const [i, p] of (s.paths ?? []).entries()) {
        const found = look(p, s.id, i);
        if (found) return found;
      }
    return null;
  };
  return look(chain, "", 0);
}

/** The id that the next effect of a kind will have. */
export function freeEffect(row: MixRow, kind: string): string {
  const ids = new Set<string>();
  const look = (list: Effect[]) => {
    for (const s of list) {
      ids.add(s.id);
      for (const p of s.paths ?? []) look(p);
    }
  };
  look(row.chain);
  let n = 1;
  while (ids.has(`${kind}${n}`)) n++;
  return `${kind}${n}`;
}

/** The buses that a row may go to: all for a voice, those below for a bus. */
export function busesFor(doc: Document, row: string) {
  if (!row.startsWith("bus:")) return doc.mix.buses;
  return doc.mix.buses.slice(doc.mix.buses.findIndex((b) => `bus:${b.id}` === row) + 1);
}

interface Chosen {
  row: string;
  /** Empty is the row itself. */
  effect: string;
  /** What stands at the right below the chosen: nothing, or the library of chains. */
  library: boolean;
  /** Effects that were copied. */
  copied: Effect[];
  set: (c: Partial<Omit<Chosen, "set">>) => void;
}

export const useChosen = create<Chosen>((set) => ({
  row: "",
  effect: "",
  library: false,
  copied: [],
  set: (c) => set(c),
}));
