// Numbers of a project by their addresses: what the tables of the core say of
// them, and how they are read and set.
import type { Edit, Layer, Param, Schemas, Voice } from "../api/client";
import { useInfo } from "./queries";

/** The edit that sets the number at an address. */
export const setNumber = (at: string, value: number): Edit => ({ op: "number.set", at, value });

export const layerAt = (voice: string, layer: string) => `${voice}/layers/${layer}`;

/** The value of a number in what has it: "level_db", or in a part of it "body.decay_ms". */
export function valueIn(holder: object | null | undefined, id: string): number {
  let at: unknown = holder;
  for (const key of id.split(".")) at = (at as Record<string, unknown> | null | undefined)?.[key];
  return Number(at ?? 0); // switches are true or false
}

/** A layer's own number, or one of its recipe, recording, attack or rumble. */
export function layerValue(l: Layer, id: string): number {
  if (!id.includes(".") || /^(recording|attack|rumble)\./.test(id)) return valueIn(l, id);
  return valueIn(l.recipe, id);
}

/** The layer that is meant where a voice is tuned or shaped as a whole, as in the core. */
export function synthOf(v: Voice): Layer | undefined {
  const all = v.layers.filter((l) => l.recipe);
  return all.find((l) => !l.mute) ?? all[0];
}

type TableName = keyof Schemas["Tables"];

/** A row of a table of the core; null until they are known. */
export function useParam(table: TableName, id: string): Param | null {
  return useInfo().data?.tables[table].find((p) => p.id === id) ?? null;
}
