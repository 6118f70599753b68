// What is done to the feel as a whole, and copied from elsewhere.
import type { State, Voice } from "../../api/client";
import { useProject } from "../../state/project";
import { TakePart } from "./CopyComponent";
import { SaveFeel } from "./SaveFeel";

export function FeelActions({ state, voice }: { state: State; voice: Voice }) {
  const edit = useProject((p) => p.edit);
  const sources: [string, string, string][] = [
    ...state.document.references.map((r): [string, string, string] => ["reference", r.id, r.name]),
    ...state.document.variations
      .filter((v) => v.id !== state.document.variation && !v.here)
      .map((v): [string, string, string] => ["variation", v.id, `Variation ${v.id.toUpperCase()}`]),
  ];
  return (
    <section className="border-t border-line pt-2">
      <h3 className="mb-1 text-sm">Feel and hits</h3>
      <div className="flex flex-wrap gap-1">
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="Everything later by 5 ms (J); earlier with Shift J"
          onClick={() => edit([{ op: "feel.pull", by_ms: 5 }])}
        >
          Pull back 5 ms
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="Moves the regular part of the nudges into swing, lean, contour and drift. Nothing changes its timing."
          onClick={() => edit([{ op: "feel.apart" }])}
        >
          Extract feel from hits
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="The feel becomes nudges and velocities of the hits"
          onClick={() => edit([{ op: "feel.freeze" }])}
        >
          Freeze into hits
        </button>
      </div>
      <SaveFeel project={state.id} />
      {sources.length > 0 && (
        <div className="mt-2">
          <p className="text-xs text-muted">Copy one component:</p>
          <TakePart sources={sources} voice={voice.id} voiceName={voice.name} />
        </div>
      )}
    </section>
  );
}
