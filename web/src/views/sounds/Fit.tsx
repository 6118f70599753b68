// Fit: a recipe is searched that sounds as near as can be to the voice's target, another
// voice or a file. What is nearest is drawn over the target and heard in place meanwhile.
import { useState } from "react";
import type { Layer, Voice } from "../../api/client";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { FitFound } from "./FitFound";
import { FitParts, FitSearch } from "./FitSettings";
import { FitTarget } from "./FitTarget";
import { Tones } from "./Tones";
import { useFitting } from "./useFitting";

export function Fit({ voice, layer }: { voice: Voice; layer: Layer | undefined }) {
  const document = useProject((p) => p.state?.document);
  const show = useShaping((s) => s.set);
  const f = useFitting(voice);
  const [over, setOver] = useState(false);
  const others = document?.kit.voices.filter((v) => v.id !== voice.id) ?? [];
  const profiles = document?.references.filter((r) => r.profile?.tones?.[voice.family]) ?? [];
  const tones = profiles.find((r) => f.asked.aim === `tones:${r.id}`);
  return (
    <section
      className={`flex min-h-0 grow flex-col gap-2 ${over ? "outline-2 outline-offset-2 outline-ref outline-dashed" : ""}`}
      aria-label="Fit"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        setOver(false);
        void f.bring(e.dataTransfer.files);
      }}
    >
      <div className="flex flex-wrap items-center gap-2">
        <FitTarget of={f} others={others} profiles={profiles} />
        {!tones && <FitSearch of={f} />}
        {f.running && (
          <>
            <button
              type="button"
              className="press press-strong"
              title="What is nearest now stays to be taken"
              onClick={f.stop}
            >
              Stop and keep
            </button>
            <button type="button" className="press" onClick={f.giveUp}>
              Give up
            </button>
          </>
        )}
        <span className="grow" />
        <button type="button" className="press" onClick={() => show({ panel: "charts" })}>
          Done
        </button>
      </div>
      {tones ? <Tones key={tones.id} voice={voice} layer={layer} reference={tones} /> : <FitParts of={f} />}
      {!f.soFar && !tones && (
        <p className="rowbox px-4 py-8 text-center text-sm text-muted" role="status">
          {f.running
            ? `${f.stage || "Waiting"}…`
            : f.hasTarget
              ? "Searches a recipe whose sound is as near as can be to the target: an ordinary one, to be edited on."
              : "This voice has no target. Make a drum of a reference its target in Reference, drop a file here, or choose another voice above."}
        </p>
      )}
      {f.soFar && !tones && <FitFound of={f} soFar={f.soFar} voice={voice} />}
    </section>
  );
}
