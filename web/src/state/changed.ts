// The state after an edit: what the answer's JSON Patch (RFC 6902) tells, put
// into the state before it. What did not change stays the same object.
import { applyPatches, enablePatches, type Patch, setAutoFreeze } from "immer";
import type { Schemas, State } from "../api/client";

enablePatches();
setAutoFreeze(false); // to freeze thousands of hits takes longer than the rest

/** The steps of a JSON Pointer (RFC 6901). */
const steps = (pointer: string) =>
  pointer
    .slice(1)
    .split("/")
    .map((s) => s.replace(/~1/g, "/").replace(/~0/g, "~"));

/** Null where the patch is of another state than this. */
export function changed(before: State, answer: Schemas["Changed"]): State | null {
  const { patch, ...rest } = answer;
  const patches: Patch[] = patch.map((p) => ({
    op: p.op as Patch["op"],
    path: steps(p.path),
    value: p.value,
  }));
  try {
    return { ...applyPatches(before, patches), ...rest };
  } catch {
    return null;
  }
}
