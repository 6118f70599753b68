// Recorded sounds struck with a voice: slices of the reference and one-shots.
import { FileAudio, Trash2, Volume2, VolumeX } from "lucide-react";
import { useRef, useState } from "react";
import type { Info, Voice, VoiceSound } from "../../api/client";
import { monitor } from "../../live/monitor";
import { hue } from "../../parts/family";
import { num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { useProject } from "../../state/project";
import { SmallWave } from "../reference/Slices";

const most = 4;

const hints: Record<string, string> = {
  delay_ms: "Later against the other parts; negative leaves out its start",
  decay_ms: "Time in which it falls by 60 dB; 0 leaves it as it is",
};

export function Layers({
  voice,
  sound,
  isFetching,
  info,
}: {
  voice: Voice;
  sound: VoiceSound | undefined;
  isFetching: boolean;
  info: Info | undefined;
}) {
  const edit = useProject((p) => p.edit);
  const addLayer = useProject((p) => p.addLayer);
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const full = voice.layers.length >= most;
  const add = async (file: File) => {
    await addLayer(voice.id, file);
    void monitor.strike(voice.id);
  };
  return (
    <section
      aria-label="Layers"
      className={`mt-3 rounded-lg ${over ? "outline-2 outline-dashed outline-ref" : ""}`}
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes("Files")) return;
        e.preventDefault();
        e.nativeEvent.stopPropagation();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        // Elsewhere a dropped file becomes the reference.
        e.nativeEvent.stopPropagation();
        setOver(false);
        const file = e.dataTransfer.files[0];
        if (file) void add(file);
      }}
    >
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-[16px]">Layers</h2>
        <label className="flex cursor-pointer items-center gap-1.5 text-[13px]">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={!voice.synth_off}
            onChange={(e) => edit([{ op: "voice.synth", voice: voice.id, value: e.target.checked ? 1 : 0 }])}
          />
          synthesized drum
        </label>
        <span className="grow text-[12px] text-muted">
          {voice.layers.length === 0
            ? "Recorded sounds struck with it: drop a one-shot here, or send a slice over from Reference."
            : "Struck with it, after its drive and low cut."}
        </span>
        <button type="button" className="press" disabled={full} onClick={() => input.current?.click()}>
          <FileAudio size={14} /> Add a one-shot
        </button>
        <input
          ref={input}
          type="file"
          accept=".wav,.flac,.mp3,.aif,.aiff,audio/*"
          className="hidden"
          aria-label="One-shot file"
          onChange={(e) => {
            const file = e.target.files?.[0];
            e.target.value = "";
            if (file) void add(file);
          }}
        />
      </div>
      {voice.layers.map((l) => {
        const drawn = sound?.layers.find((d) => d.id === l.id);
        const at = { voice: voice.id, text: l.id };
        return (
          <fieldset key={l.id} className="rowbox mb-1 px-3 pt-2 pb-1" aria-label={`Layer ${l.name}`}>
            <div className="mb-1 flex items-center gap-3">
              <button
                type="button"
                className="press px-2"
                aria-pressed={l.mute}
                aria-label={l.mute ? `Unmute ${l.name}` : `Mute ${l.name}`}
                title={l.mute ? "Unmute this layer" : "Mute this layer"}
                onClick={() => edit([{ op: "layer.mute", ...at, value: l.mute ? 0 : 1 }])}
              >
                {l.mute ? <VolumeX size={14} /> : <Volume2 size={14} />}
              </button>
              <div
                className={`w-[190px] shrink-0 ${l.flip ? "-scale-y-100" : ""} ${l.mute ? "opacity-40" : ""}`}
              >
                {drawn && (
                  <SmallWave points={drawn.wave.points as [number, number][]} colour={hue(voice.family)} />
                )}
                {!drawn && sound && !isFetching && (
                  <p className="text-[12px] text-error">its sound is missing</p>
                )}
              </div>
              <span className="grow truncate" title={l.name}>
                {l.name}
                {drawn && <span className="num ml-2 text-[12px] text-muted">{num(drawn.span_ms, 0)} ms</span>}
              </span>
              <button
                type="button"
                className="press px-2"
                aria-pressed={l.flip}
                title="Turns its polarity over: try it where two layers cancel"
                onClick={() => edit([{ op: "layer.flip", ...at, value: l.flip ? 0 : 1 }])}
              >
                Flip
              </button>
              <button
                type="button"
                className="press px-2"
                aria-label={`Remove ${l.name}`}
                title="Remove this layer"
                onClick={() => edit([{ op: "layer.remove", ...at }])}
              >
                <Trash2 size={14} />
              </button>
            </div>
            <div className="grid grid-cols-3 gap-x-6">
              {(info?.layer_params ?? []).map((p) => (
                <NumberField
                  key={p.id}
                  label={p.name}
                  value={l[p.id as "level_db"]}
                  unit={p.unit}
                  min={p.min}
                  max={p.max}
                  reset={p.reset}
                  log={p.unit === "Hz"}
                  digits={p.unit === "Hz" || p.id === "decay_ms" ? 0 : 1}
                  step={p.unit === "dB" ? 0.5 : 1}
                  hint={hints[p.id] ?? ""}
                  onChange={(value, g) => edit([{ op: "layer.set", ...at, param: p.id, value }], g)}
                />
              ))}
            </div>
          </fieldset>
        );
      })}
    </section>
  );
}
