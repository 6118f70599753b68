// Where a number lies in its range, in the scale that its table gives it.
import type { Param } from "../api/client";

/** Where a value lies in its range, 0 to 1. */
export const partOf = (p: Param, v: number) =>
  p.scale === "log" ? Math.log(v / p.min) / Math.log(p.max / p.min) : (v - p.min) / (p.max - p.min);

/** The value at a part of the range. */
export const valueFor = (p: Param, part: number) =>
  p.scale === "log" ? p.min * (p.max / p.min) ** part : p.min + (p.max - p.min) * part;
