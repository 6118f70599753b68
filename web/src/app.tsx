import { lazy, Suspense, useEffect, useState } from "react";
import { monitor } from "./live/monitor";
import { Boundary } from "./parts/Boundary";
import { BringStatus } from "./parts/Bring";
import { Frame, titles } from "./parts/Frame";
import { Notice } from "./parts/Notice";
import { useProject } from "./state/project";
import { go, usePlace } from "./state/route";

// Each view is loaded when it is opened first.
const Home = lazy(() => import("./views/home/Home").then((m) => ({ default: m.Home })));
const screens = {
  reference: lazy(() => import("./views/reference/Reference").then((m) => ({ default: m.Reference }))),
  sounds: lazy(() => import("./views/sounds/Sounds").then((m) => ({ default: m.Sounds }))),
  groove: lazy(() => import("./views/groove/Groove").then((m) => ({ default: m.Groove }))),
  mix: lazy(() => import("./views/mix/Mix").then((m) => ({ default: m.Mix }))),
  arrange: lazy(() => import("./views/arrange/Arrange").then((m) => ({ default: m.Arrange }))),
  compare: lazy(() => import("./views/compare/Compare").then((m) => ({ default: m.Compare }))),
  export: lazy(() => import("./views/export/Export").then((m) => ({ default: m.Export }))),
};

export function App() {
  const place = usePlace();
  return (
    <>
      {place.project ? (
        <Project id={place.project} />
      ) : (
        <Suspense>
          <Home />
        </Suspense>
      )}
      <Notice />
    </>
  );
}

function Project({ id }: { id: string }) {
  const { view } = usePlace();
  const state = useProject((p) => p.state);
  const [error, setError] = useState("");
  useEffect(() => {
    setError("");
    useProject
      .getState()
      .open(id)
      .catch((e: Error) => setError(e.message));
    monitor.attach(id);
    return () => {
      monitor.detach();
      useProject.getState().close();
    };
  }, [id]);
  if (error)
    return (
      <main className="flex h-full flex-col items-center justify-center gap-4">
        <p className="text-lg">{error}</p>
        <button type="button" className="press" onClick={() => go(null)}>
          All projects
        </button>
      </main>
    );
  if (!state || state.id !== id) return null;
  const Screen = screens[view];
  return (
    <>
      <Frame project={id} view={view}>
        <Boundary of={`${id}/${view}`} name={titles[view]}>
          <Suspense>
            <Screen state={state} />
          </Suspense>
        </Boundary>
      </Frame>
      <BringStatus project={id} />
    </>
  );
}
