import { useState } from "react";
import type { State } from "../../api/client";
import { BringButton } from "../../parts/Bring";
import { useImport } from "../../parts/importing";
import type { MenuItem } from "../../parts/Menu";
import { useActiveReference, useAnalysis } from "../../state/queries";
import { go } from "../../state/route";
import { Coming } from "./Coming";
import { Head } from "./Head";
import { Heard } from "./Heard";
import { Library } from "./Library";
import { ProfileView } from "./ProfileView";
import { TapIn } from "./TapIn";

export function Reference({ state }: { state: State }) {
  const reference = useActiveReference();
  const { data, error } = useAnalysis();
  const [library, setLibrary] = useState(false);
  const [tapping, setTapping] = useState(false);
  const pads = tapping && <TapIn state={state} onClose={() => setTapping(false)} />;
  const list = library && (
    <Library
      project={state.id}
      reference={reference && reference.kind !== "profile" ? reference : null}
      onClose={() => setLibrary(false)}
    />
  );
  const openLibrary = () => setLibrary(true);
  const coming = useImport((i) => i.soFar);
  if (coming) return <Coming soFar={coming} />;
  const head = (more: MenuItem[]) =>
    reference && (
      <Head
        state={state}
        reference={reference}
        onLibrary={openLibrary}
        onTapIn={() => setTapping(true)}
        more={more}
      />
    );
  // The library and the pads stay where they are in the tree, whatever is shown
  // below them: they are open while references change.
  return (
    <>
      {!reference ? (
        <Nothing onLibrary={openLibrary} onTapIn={() => setTapping(true)} />
      ) : error ? (
        <main className="grow p-6 text-error">{error.message}</main>
      ) : !data ? (
        <main className="grow p-6 text-muted">Reading what was heard…</main>
      ) : reference.profile ? (
        <ProfileView head={head([])} profile={reference.profile} reference={reference.id} />
      ) : (
        <Heard key={reference.id} state={state} analysis={data} reference={reference} head={head} />
      )}
      {list}
      {pads}
    </>
  );
}

/** What a project without a reference shows. */
function Nothing(p: { onLibrary: () => void; onTapIn: () => void }) {
  return (
    <main className="flex grow items-center justify-center">
      <div className="max-w-[480px] text-center">
        <h1 className="mb-2 text-3xl">What should it feel like?</h1>
        <p className="mb-5 text-lg text-muted">
          Bring a drum loop, a record or a MIDI performance. Its hits, beat, swing and lean are measured, and
          become the target for your own drums. WAV, FLAC, MP3 or MIDI, up to 256 MB; you can also drop a file
          anywhere.
        </p>
        <div className="flex justify-center gap-3">
          <BringButton strong />
          <button type="button" className="press" onClick={() => go(null)}>
            See it done in a demo project
          </button>
          <button type="button" className="press" onClick={p.onLibrary}>
            Take a genre instead
          </button>
          <button type="button" className="press" onClick={p.onTapIn}>
            Tap it in
          </button>
        </div>
      </div>
    </main>
  );
}
