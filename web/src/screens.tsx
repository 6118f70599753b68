// The views' code, loaded when it is needed. (React shows a lazy component 300 ms after its
// placeholder at the earliest; these are shown as soon as they are here.)
import { type ComponentType, useEffect, useState } from "react";
import type { State } from "./api/client";
import { type View, views } from "./state/route";

type Screen = ComponentType<{ state: State }>;

const files: Record<View, () => Promise<Screen>> = {
  reference: () => import("./views/reference/Reference").then((m) => m.Reference),
  sounds: () => import("./views/sounds/Sounds").then((m) => m.Sounds),
  groove: () => import("./views/groove/Groove").then((m) => m.Groove),
  mix: () => import("./views/mix/Mix").then((m) => m.Mix),
  arrange: () => import("./views/arrange/Arrange").then((m) => m.Arrange),
  compare: () => import("./views/compare/Compare").then((m) => m.Compare),
  export: () => import("./views/export/Export").then((m) => m.Export),
};

const loaded: Partial<Record<View, Screen>> = {};

/** Loads a view's code, once; again after a failure. */
export async function load(view: View) {
  loaded[view] ??= await files[view]();
}

/** Loads all views, one behind the other, while the page has nothing else to do. */
export async function loadAll() {
  for (const view of views) {
    await new Promise<void>((rest) => (globalThis.requestIdleCallback ?? setTimeout)(() => rest()));
    await load(view).catch(() => {}); // whoever opens it is shown why
  }
}

/** A view of a project; nothing until its code is loaded. */
export function ScreenOf({ view, state }: { view: View; state: State }) {
  const [, setArrived] = useState<View>();
  const [error, setError] = useState<Error | null>(null);
  const Shown = loaded[view];
  useEffect(() => {
    if (!Shown) load(view).then(() => setArrived(view), setError);
  }, [view, Shown]);
  if (error) throw error;
  return Shown ? <Shown state={state} /> : null;
}
