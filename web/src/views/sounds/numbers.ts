// The numbers of a recipe by where they are within it.
import type { Info, Param } from "../../api/client";
import { valueIn } from "../../state/numbers";
import { type Effect, partNames, type Recipe } from "./parts";

export interface Numbered {
  param: Param;
  /** What has the number, for people. */
  of: string;
  value: number;
}

export const kindOf = (info: Info, s: Effect) => info.effects.find((k) => k.id === s.kind);

/** The number of a recipe at "body.end_hz" or "effects/s1/amount_percent". */
export function numberOf(info: Info, r: Recipe, at: string): Numbered | null {
  const [, effect, id] = at.match(/^effects\/([^/]+)\/(.+)$/) ?? [];
  if (effect && id) {
    const s = r.effects.find((x) => x.id === effect);
    const kind = s && kindOf(info, s);
    const param = kind?.params.find((p) => p.id === id);
    return s && kind && param ? { param, of: kind.label.toLowerCase(), value: s.values[id] ?? 0 } : null;
  }
  const param = info.tables.recipe.find((p) => p.id === at);
  return param ? { param, of: (partNames[param.part] ?? "").toLowerCase(), value: valueIn(r, at) } : null;
}
