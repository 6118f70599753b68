// The state after an edit: what the answer's JSON Patch (RFC 6902) reports, put
// into the state before it. What did not change stays the same object.
import type { Schemas, State } from "../api/client";

type Patch = Schemas["Changed"]["patch"][number];

/** The keys of a JSON Pointer (RFC 6901). */
const keysOf = (pointer: string) =>
  pointer
    .split("/")
    .slice(1)
    .map((s) => s.replace(/~1/g, "/").replace(/~0/g, "~"));

/** A value with a patch made at some keys within it; what lies beside stays the same object. */
function patched(of: unknown, keys: string[], p: Patch): unknown {
  const [key, ...rest] = keys;
  if (key === undefined) return p.value;
  if (Array.isArray(of)) {
    const at = key === "-" ? of.length : Number(key);
    const most = p.op === "add" && rest.length === 0 ? of.length : of.length - 1;
    if (!Number.isInteger(at) || at < 0 || at > most) throw new Error(`there is no place ${key}`);
    const out = of.slice();
    if (rest.length > 0) out[at] = patched(out[at], rest, p);
    else if (p.op === "remove") out.splice(at, 1);
    else out.splice(at, p.op === "add" ? 0 : 1, p.value);
    return out;
  }
  if (typeof of !== "object" || of === null) throw new Error(`there is nothing at ${key}`);
  const out = { ...(of as Record<string, unknown>) };
  if (!(key in out) && (rest.length > 0 || p.op !== "add")) throw new Error(`there is no ${key}`);
  if (rest.length > 0) out[key] = patched(out[key], rest, p);
  else if (p.op === "remove") delete out[key];
  else out[key] = p.value;
  return out;
}

/** Null where the patch is of another state than this. */
export function changed(before: State, answer: Schemas["Changed"]): State | null {
  const { patch, ...rest } = answer;
  try {
    return { ...(patch.reduce<unknown>((s, p) => patched(s, keysOf(p.path), p), before) as State), ...rest };
  } catch {
    return null;
  }
}
