// What a comparison's rows say, as text.
import type { Row, Schemas } from "../../api/client";
import { num } from "../../parts/format";

export type Column = Schemas["Column"];

/** The unit of values, where differences have another one. */
const valueUnits: Record<string, string> = {
  fundamental: "Hz",
  settles: "ms",
  decay: "ms",
  brightness: "Hz",
};

export const unitOf = (c: Column) => valueUnits[c.id] ?? c.unit;

/** How many tolerances a row lies off, with what the reference's value may be wrong by. */
export const severity = (r: Row) =>
  r.inside === false ? Math.abs(r.difference ?? 0) / Math.max(r.tolerance + r.within, 0.5) : 0;

export const digitsOf = (c: Column) => (c.id === "fundamental" ? 1 : valueUnits[c.id] ? 0 : c.digits);

/** What is further off is as far as it matters. */
const most = 999;

export const differenceText = (r: Row, c: Column) =>
  r.difference === null ? "–" : num(Math.min(Math.max(r.difference, -most), most), c.digits, c.id !== "hits");

/** "−9.0 ms" */
export const withUnit = (v: number, c: Column) => `${num(v, c.digits, true)}${c.unit ? ` ${c.unit}` : ""}`;

/** What a cell says to those who do not see it. */
export function spoken(r: Row, c: Column): string {
  if (r.difference === null) return `${c.label}: cannot be measured, ${r.why}`;
  const side = r.inside ? "inside" : "outside";
  return `${c.label}: ${differenceText(r, c)} ${c.unit}, ${side}`;
}
