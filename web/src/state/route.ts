// Where the user is: /p/<project>/<view>, in the address bar.
import { useSyncExternalStore } from "react";

export const views = ["reference", "sounds", "groove", "mix", "arrange", "compare", "export"] as const;
export type View = (typeof views)[number];

export interface Place {
  project: string | null;
  view: View;
}

export function parse(path: string): Place {
  const [, p, project, view] = path.split("/");
  const known = views.find((v) => v === view) ?? "groove";
  return { project: p === "p" && project ? project : null, view: known };
}

const listeners = new Set<() => void>();

export function go(project: string | null, view: View = "reference") {
  history.pushState(null, "", project ? `/p/${project}/${view}` : "/");
  for (const l of listeners) l();
}

function subscribe(l: () => void) {
  listeners.add(l);
  addEventListener("popstate", l);
  return () => {
    listeners.delete(l);
    removeEventListener("popstate", l);
  };
}

export function usePlace(): Place {
  return parse(useSyncExternalStore(subscribe, () => location.pathname));
}
