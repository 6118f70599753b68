// What the screen reads off the kinds of effect, which the core describes.
import type { Param, Schemas } from "../api/client";
import { num } from "./format";

type Kind = Schemas["EffectKind"];
type Effect = Schemas["Effect"];

/** A word as a label: its first letter large. */
export const sentence = (text: string) => text.charAt(0).toUpperCase() + text.slice(1);

/** The kinds by what they are for, in order of the menu. */
export function effectGroups(kinds: Kind[]): [string, Kind[]][] {
  const groups = new Map<string, Kind[]>();
  for (const k of kinds) groups.set(k.group, [...(groups.get(k.group) ?? []), k]);
  return [...groups];
}

/** Whether a parameter means something with the values of the others. */
export function shown(p: Param, values: Record<string, number>): boolean {
  const w = p.when;
  if (!w) return true;
  const v = values[w.id] ?? 0;
  return (!w.is || w.is.includes(v)) && !(w.not ?? []).includes(v);
}

/** An effect in a few words: its telling parameters, or its label. */
export function effectText(kind: Kind | undefined, effect: Effect): string {
  if (!kind?.short) return kind?.label.toLowerCase() ?? effect.kind;
  return kind.short.replace(/\{([\w.]+)\}/g, (_, id: string) => {
    const p = kind.params.find((q) => q.id === id);
    const v = effect.values[id] ?? 0;
    if (p?.names) return p.names[v] ?? "";
    return `${num(v, 0)}${p?.unit && !p.unit.startsWith(":") ? ` ${p.unit}` : ""}`;
  });
}
