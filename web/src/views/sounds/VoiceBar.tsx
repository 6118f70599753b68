// The voices of the kit as tabs, and what can be done with them.
import { Plus } from "lucide-react";
import { useEffect, useRef } from "react";
import type { Voice } from "../../api/client";
import { monitor } from "../../live/monitor";
import { familyName, Glyph, hue } from "../../parts/family";
import { Menu } from "../../parts/Menu";
import { setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useInfo } from "../../state/queries";
import { useSelection } from "../../state/selection";

export function VoiceBar({ voices, voice }: { voices: Voice[]; voice: Voice | undefined }) {
  const sel = useSelection();
  const edit = useProject((p) => p.edit);
  const families = useInfo().data?.families ?? [];
  const at = voices.findIndex((v) => v.id === voice?.id);
  // A voice that was just added is the one that is meant.
  const count = useRef(voices.length);
  useEffect(() => {
    const last = voices.at(-1);
    if (voices.length > count.current && adding.current && last)
      useSelection.getState().set({ voice: last.id });
    adding.current = false;
    count.current = voices.length;
  }, [voices]);
  const adding = useRef(false);
  return (
    <div className="mb-2 flex items-start gap-2">
      <div className="flex min-w-0 grow flex-wrap gap-1.5">
        <div className="contents" role="tablist" aria-label="Voices">
          {voices.map((v) => (
            <button
              key={v.id}
              type="button"
              role="tab"
              aria-selected={v.id === voice?.id}
              title={`Choose and play ${v.name}`}
              className={`press ${v.id === voice?.id ? "bg-row!" : ""}`}
              style={v.id === voice?.id ? { borderColor: hue(v.family) } : {}}
              onClick={() => {
                sel.set({ voice: v.id });
                void monitor.strike(v.id);
              }}
            >
              <Glyph family={v.family} size={15} /> {v.name}
              {v.mute && <span className="text-2xs text-muted">muted</span>}
            </button>
          ))}
        </div>
        <Menu
          label="Voice"
          name="Add a voice"
          title="Add a voice to the kit"
          columns
          face={<Plus size={14} />}
          items={families.map((family) => ({
            text: familyName(family),
            icon: <Glyph family={family} size={15} />,
            onClick: () => {
              adding.current = true;
              edit([{ op: "voice.add", family }]);
            },
          }))}
        />
      </div>
      {voice && (
        <>
          <button
            type="button"
            className="press"
            aria-pressed={voice.mute}
            onClick={() => edit([setNumber(`${voice.id}/mute`, voice.mute ? 0 : 1)])}
          >
            {voice.mute ? "Unmute" : "Mute"}
          </button>
          <Menu
            label="Voice"
            name="This voice"
            right
            items={[
              {
                text: "Duplicate",
                hint: "With its sound, hits and feel",
                onClick: () => edit([{ op: "voice.duplicate", voice: voice.id }]),
              },
              {
                text: "Move up",
                hint: "One row, on every screen",
                disabled: at === 0,
                onClick: () => edit([{ op: "voice.move", voice: voice.id, to: at - 1 }]),
              },
              {
                text: "Move down",
                disabled: at === voices.length - 1,
                onClick: () => edit([{ op: "voice.move", voice: voice.id, to: at + 1 }]),
              },
              {
                text: voice.mono ? "Polyphonic" : "Monophonic",
                hint: voice.mono ? "" : "A new note stops the one before",
                onClick: () => edit([setNumber(`${voice.id}/mono`, voice.mono ? 0 : 1)]),
              },
              {
                text: "Remove",
                hint: "With its hits; Ctrl Z brings it back",
                onClick: () => edit([{ op: "voice.remove", voice: voice.id }]),
              },
            ]}
          />
        </>
      )}
    </div>
  );
}
