// The numbers of a layer, whatever makes its sound.
import type { Info, Layer, Voice } from "../../api/client";
import { noteText } from "../../parts/format";
import { layerAt } from "../../state/numbers";
import { useProject } from "../../state/project";
import { Rows } from "./SoundPanel";

export const layerHints: Record<string, string> = {
  start_ms: "Later than the hit",
  pan: "Left is negative",
  above_hz: "Owns what lies above: with another layer only below it, they add up flat",
  below_hz: "Owns what lies below: with another layer only above it, they add up flat",
  velocity_from: "Softer hits leave it out",
  velocity_to: "Harder hits leave it out",
  velocity_fade: "How wide it fades at its velocity bounds",
  turn: "On every hit, or in turns with other layers",
  "recording.skip_ms": "Leaves out its start",
  "recording.decay_ms": "Fades by 60 dB in this time; 0 leaves it alone",
  "recording.length_ms": "How much of it is heard; 0 is all",
  "recording.keep_length": "Pitch changes the pitch alone",
  "recording.gate": "Takes away what is soft: the reverb's tail of a loop",
};

const gateID = /^recording\.gate_/;

export function LayerPanel({ voice, layer: l, info }: { voice: Voice; layer: Layer; info: Info }) {
  const edit = useProject((p) => p.edit);
  const tidy = useProject((p) => p.tidyLayer);
  const at = layerAt(voice.id, l.id);
  const own = info.tables.layer.filter(
    (p) =>
      p.scale !== "switch" &&
      (p.id !== "turn_every" || l.turn === 3) &&
      (p.id !== "turn_chance_percent" || l.turn === 4),
  );
  return (
    <section aria-label="Layer">
      <h2 className="text-[15px]">Layer {l.name}</h2>
      <Rows rows={own} at={at} of={l} hints={layerHints} />
      {l.recording && (
        <>
          <div className="mt-2 flex items-center border-t border-line pt-1">
            <h3 className="grow text-[13px]">Recording</h3>
            <button
              type="button"
              className="press h-7 px-2 text-[12px]"
              title="Leaves out silence, brings its peak to −1 dBFS, notes its pitch"
              onClick={() => void tidy(voice.id, l.id)}
            >
              Trim and level
            </button>
          </div>
          {l.recording.root_hz > 0 && (
            <p className="text-[12px] text-muted">
              its own pitch: <span className="num">{noteText(l.recording.root_hz)}</span>
            </p>
          )}
          <Rows
            rows={info.tables.recording.filter((p) => l.recording?.gate || !gateID.test(p.id))}
            at={at}
            of={l}
            hints={layerHints}
          />
        </>
      )}
      {l.rumble && (
        <>
          <h3 className="mt-2 border-t border-line pt-1 text-[13px]">Rumble</h3>
          <Rows rows={info.tables.rumble} at={at} of={l} />
        </>
      )}
      {!l.rumble && (
        <>
          <h3 className="mt-2 border-t border-line pt-1 text-[13px]">Attack</h3>
          {l.attack ? (
            <>
              <Rows rows={info.tables.attack} at={at} of={l} />
              <button
                type="button"
                className="press mt-1"
                onClick={() => edit([{ op: "layer.attack", voice: voice.id, layer: l.id, blob: "" }])}
              >
                Its own attack
              </button>
            </>
          ) : (
            <BorrowAttack voice={voice} layer={l} />
          )}
        </>
      )}
    </section>
  );
}

/** The start of another voice's sound in place of the layer's own. */
function BorrowAttack({ voice, layer }: { voice: Voice; layer: Layer }) {
  const voices = useProject((p) => p.state?.document.kit.voices) ?? [];
  const borrow = useProject((p) => p.borrowAttack);
  return (
    <label className="flex items-center gap-2 py-1 text-[13px]">
      <span className="grow">Borrow from</span>
      <select
        className="press h-7 max-w-[150px] px-1.5 text-[13px]"
        aria-label="Borrow the attack of"
        value=""
        onChange={(e) => void borrow(voice.id, layer.id, e.target.value)}
      >
        <option value="">its own</option>
        {voices
          .filter((v) => v.id !== voice.id)
          .map((v) => (
            <option key={v.id} value={v.id}>
              {v.name}
            </option>
          ))}
      </select>
    </label>
  );
}
