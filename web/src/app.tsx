import { useEffect, useState } from "react";
import { monitor } from "./live/monitor";
import { Boundary } from "./parts/Boundary";
import { BringStatus } from "./parts/Bring";
import { Frame, titles } from "./parts/Frame";
import { Notice } from "./parts/Notice";
import { useProject } from "./state/project";
import { go, usePlace } from "./state/route";
import { Arrange } from "./views/arrange/Arrange";
import { Compare } from "./views/compare/Compare";
import { Export } from "./views/export/Export";
import { Groove } from "./views/groove/Groove";
import { Home } from "./views/home/Home";
import { Mix } from "./views/mix/Mix";
import { Reference } from "./views/reference/Reference";
import { Sounds } from "./views/sounds/Sounds";

const screens = {
  reference: Reference,
  sounds: Sounds,
  groove: Groove,
  mix: Mix,
  arrange: Arrange,
  compare: Compare,
  export: Export,
};

export function App() {
  const place = usePlace();
  return (
    <>
      {place.project ? <Project id={place.project} /> : <Home />}
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
        <p className="text-[16px]">{error}</p>
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
          <Screen state={state} />
        </Boundary>
      </Frame>
      <BringStatus project={id} />
    </>
  );
}
