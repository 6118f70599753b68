// The numbers of a voice itself: level, one note at a time, what stops it, what
// opens it.
import type { Info, Voice } from "../../api/client";
import { useProject } from "../../state/project";
import { Rows } from "./Rows";

const hints: Record<string, string> = {
  pan: "Left is negative",
  release_ms: "How fast a note that is stopped fades",
  touch_percent: "At 100 %, a tenth of the velocity is 40 dB softer; at 0 every hit is as loud",
  touch_bend: "Above 0 soft hits are louder, below 0 softer; the hardest stays",
  glide_ms: "How long the pitch takes from note to note, one note at a time",
  midi_key: "By which it is written to and read from MIDI; 0 is one of its family's",
  legato: "A note that follows while the one before sounds has no new attack",
};

export function VoicePanel({ voice, info }: { voice: Voice; info: Info }) {
  const edit = useProject((p) => p.edit);
  const voices = useProject((p) => p.state?.document.kit.voices) ?? [];
  const others = voices.filter((v) => v.id !== voice.id);
  const rows = info.tables.voice.filter(
    (p) => p.id !== "mute" && (voice.mono || (p.id !== "glide_ms" && p.id !== "legato")),
  );
  return (
    <section aria-label="Voice">
      <h2 className="text-lg">{voice.name}</h2>
      <Rows rows={rows} at={voice.id} of={voice} hints={hints} />
      <h3 className="mt-2 border-t border-line pt-1 text-sm">Choked by</h3>
      <div className="flex flex-wrap gap-1 py-1">
        {others.map((v) => {
          const on = voice.cut_by.includes(v.id);
          return (
            <button
              key={v.id}
              type="button"
              className={`press h-7 px-2 text-xs ${on ? "bg-row!" : ""}`}
              aria-pressed={on}
              onClick={() =>
                edit([
                  {
                    op: "voice.cut",
                    voice: voice.id,
                    by: on ? voice.cut_by.filter((id) => id !== v.id) : [...voice.cut_by, v.id],
                  },
                ])
              }
            >
              {v.name}
            </button>
          );
        })}
        {others.length === 0 && <span className="text-xs text-muted">No other voice is there.</span>}
      </div>
      <h3 className="mt-1 border-t border-line pt-1 text-sm">Gate</h3>
      <label
        className="flex items-center gap-2 py-1 text-sm"
        title="The voice sounds only while another one is loud"
      >
        <span className="grow">Opened by</span>
        <select
          className="press h-7 max-w-[150px] px-1.5 text-sm"
          aria-label="Gate opened by"
          value={voice.gate?.by ?? ""}
          onChange={(e) => edit([{ op: "voice.gate", voice: voice.id, by: e.target.value }])}
        >
          <option value="">always open</option>
          {others.map((v) => (
            <option key={v.id} value={v.id}>
              {v.name}
            </option>
          ))}
        </select>
      </label>
      {voice.gate && <Rows rows={info.tables.gate} at={voice.id} of={voice} />}
    </section>
  );
}
