// Ranges of a profile in words.
import type { Schemas } from "../api/client";
import { num } from "./format";

export function rangeText(
  r: Schemas["Range"] | null | undefined,
  unit: string,
  digits = 0,
  plus = false,
): string {
  if (!r) return "–";
  const text = (v: number) => num(v, digits, plus && v !== 0);
  const tail = unit ? ` ${unit}` : "";
  return r.low === r.high ? `${text(r.low)}${tail}` : `${text(r.low)} to ${text(r.high)}${tail}`;
}
