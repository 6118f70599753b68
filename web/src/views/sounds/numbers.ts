// The numbers of a recipe by where they are within it.
import type { Info, Param } from "../../api/client";
import { valueIn } from "../../state/numbers";
import { partNames, type Recipe, type Step } from "./parts";

export interface Numbered {
  param: Param;
  /** What has the number, for people. */
  of: string;
  value: number;
}

export const kindOf = (info: Info, s: Step) => info.steps.find((k) => k.id === s.kind);

/** The number of a recipe at "body.end_hz" or "steps/s1/amount_percent". */
export function numberOf(info: Info, r: Recipe, at: string): Numbered | null {
  const [, step, id] = at.match(/^steps\/([^/]+)\/(.+)$/) ?? [];
  if (step && id) {
    const s = r.steps.find((x) => x.id === step);
    const kind = s && kindOf(info, s);
    const param = kind?.params.find((p) => p.id === id);
    return s && kind && param ? { param, of: kind.label.toLowerCase(), value: s.values[id] ?? 0 } : null;
  }
  const param = info.tables.recipe.find((p) => p.id === at);
  return param ? { param, of: (partNames[param.part] ?? "").toLowerCase(), value: valueIn(r, at) } : null;
}
