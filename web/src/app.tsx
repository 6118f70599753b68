import { useEffect, useState } from "react";
import { monitor } from "./live/monitor";
import { Boundary } from "./parts/Boundary";
import { BringStatus } from "./parts/Bring";
import { Frame, titles } from "./parts/Frame";
import { Notice } from "./parts/Notice";
import { load, loadAll, ScreenOf } from "./screens";
import { useProject } from "./state/project";
import { go, usePlace } from "./state/route";
import { Home } from "./views/home/Home";

export function App() {
  const place = usePlace();
  useEffect(() => void loadAll(), []);
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
  // Beside the project, not after it.
  useEffect(() => void load(view).catch(() => {}), [view]);
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
  return (
    <>
      <Frame project={id} view={view}>
        <Boundary of={`${id}/${view}`} name={titles[view]}>
          <ScreenOf view={view} state={state} />
        </Boundary>
      </Frame>
      <BringStatus project={id} />
    </>
  );
}
