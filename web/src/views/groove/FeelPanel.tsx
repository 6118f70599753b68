import type { State } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { useSelection } from "../../state/selection";
import { FeelActions } from "./FeelActions";
import { HitNumbers } from "./HitNumbers";
import { OverTime } from "./OverTime";
import { Swing } from "./Swing";
import { VoiceFeel } from "./VoiceFeel";

export function FeelPanel({ state }: { state: State }) {
  const selected = useSelection((s) => s.voice);
  const hear = useMonitor((m) => m.hear);
  const { voices } = state.document.kit;
  const voice = voices.find((v) => v.id === selected) ?? voices[0];
  if (!voice) return null;
  return (
    <section className="flex flex-col gap-3" aria-label="Feel">
      <div className="flex items-center">
        <h2 className="grow text-xl">Feel</h2>
        <button
          type="button"
          className={`press h-7 px-2 text-xs ${hear ? "bg-row!" : ""}`}
          aria-pressed={hear !== null}
          title="Off and on at the same spot (E)"
          onClick={() => monitor.setHear(hear ? null : [])}
        >
          {hear === null ? "Off" : hear.length === 0 ? "It is off: on" : "Hear all"}
        </button>
      </div>
      <Swing state={state} />
      <VoiceFeel state={state} voice={voice} />
      <OverTime state={state} voice={voice} />
      <FeelActions state={state} voice={voice} />
      <HitNumbers state={state} />
    </section>
  );
}
