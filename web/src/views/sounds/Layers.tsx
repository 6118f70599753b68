// The sounds that a voice strikes together: recipes, slices of the reference,
// one-shots. One of them is chosen; its numbers are below its row, and a recipe
// stands on the charts and at the right.
import { ArrowDown, ArrowUp, AudioWaveform, FileAudio, Trash2, Volume2, VolumeX } from "lucide-react";
import { useRef, useState } from "react";
import type { Info, Layer, Schemas, Voice, VoiceSound } from "../../api/client";
import { monitor } from "../../live/monitor";
import { hue } from "../../parts/family";
import { num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { TextBox } from "../../parts/TextBox";
import { layerAt, layerValue, setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { SmallWave } from "../reference/Slices";
import { partColour } from "./parts";

const hints: Record<string, string> = {
  start_ms: "Later than the hit",
  pan: "Left is negative",
  above_hz: "Owns what lies above: with another layer only below it, they add up flat",
  below_hz: "Owns what lies below: with another layer only above it, they add up flat",
  velocity_from: "Softer hits leave it out",
  velocity_to: "Harder hits leave it out",
  velocity_fade: "How wide it fades at its velocity bounds",
  "recording.skip_ms": "Leaves out its start",
  "recording.decay_ms": "Fades by 60 dB in this time; 0 leaves it alone",
};

interface Props {
  voice: Voice;
  chosen: Layer | undefined;
  onChoose: (layer: string) => void;
  sound: VoiceSound | undefined;
  isFetching: boolean;
  info: Info | undefined;
}

export function Layers({ voice, chosen, onChoose, sound, isFetching, info }: Props) {
  const edit = useProject((p) => p.edit);
  const addLayer = useProject((p) => p.addLayer);
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const full = voice.layers.length >= (info?.limits.layers ?? 0);
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
      <div className="mb-1 flex items-center gap-2">
        <h2 className="text-[16px]">Layers</h2>
        <span className="grow text-[12px] text-muted">
          {voice.layers.length < 2
            ? "Struck together: drop a one-shot here, or send a slice over from Reference."
            : "Struck together. Click one to shape it."}
        </span>
        <button
          type="button"
          className="press"
          disabled={full}
          title="One more drum, made from its parts"
          onClick={() => edit([{ op: "layer.add", voice: voice.id, layer: fresh }])}
        >
          <AudioWaveform size={14} /> Add a synth
        </button>
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
      {sound?.together?.text && (
        <div className="mb-1 flex items-center gap-3 text-[12px]">
          <span className={sound.together.losses.length > 0 ? "font-semibold text-error" : "text-muted"}>
            {sound.together.text}
          </span>
          {sound.together.change && (
            <button
              type="button"
              className="press"
              title="Moves and flips layers so that they add up best; Ctrl Z takes it back"
              onClick={() => edit(sound.together.edits)}
            >
              {sound.together.change}
            </button>
          )}
        </div>
      )}
      {voice.layers.map((l, i) => (
        <LayerRow
          key={l.id}
          voice={voice}
          layer={l}
          place={i}
          open={l.id === chosen?.id}
          onChoose={onChoose}
          drawn={sound?.layers.find((d) => d.id === l.id)}
          missing={sound !== undefined && !isFetching}
          info={info}
        />
      ))}
    </section>
  );
}

/** A layer of which the server makes the default recipe of the voice's family. */
const fresh: Layer = {
  id: "",
  name: "",
  level_db: 0,
  pan: 0,
  pitch_st: 0,
  start_ms: 0,
  low_cut_hz: 20,
  high_cut_hz: 20000,
  above_hz: 20,
  below_hz: 20000,
  velocity_from: 1,
  velocity_to: 127,
  velocity_fade: 0,
  flip: false,
  mute: false,
  recipe: null,
  recording: null,
};

function LayerRow({
  voice,
  layer: l,
  place,
  open,
  onChoose,
  drawn,
  missing,
  info,
}: {
  voice: Voice;
  layer: Layer;
  place: number;
  open: boolean;
  onChoose: (layer: string) => void;
  drawn: Schemas["LayerSound"] | undefined;
  missing: boolean;
  info: Info | undefined;
}) {
  const edit = useProject((p) => p.edit);
  const at = layerAt(voice.id, l.id);
  const of = { voice: voice.id, layer: l.id };
  const own = (info?.tables.layer ?? []).filter((p) => p.scale !== "switch");
  const recorded = l.recording ? (info?.tables.recording ?? []) : [];
  const rows = [...own, ...recorded.filter((p) => p.scale !== "switch")];
  const switches = recorded.filter((p) => p.scale === "switch");
  return (
    <fieldset
      className={`rowbox mb-1 border px-3 py-1.5 ${open ? "border-base-content/60" : "border-transparent"}`}
      aria-label={`Layer ${l.name}`}
    >
      <div className="flex items-center gap-2">
        <button
          type="button"
          className="press px-2"
          aria-pressed={l.mute}
          aria-label={l.mute ? `Unmute ${l.name}` : `Mute ${l.name}`}
          title={l.mute ? "Unmute this layer" : "Mute this layer"}
          onClick={() => edit([setNumber(`${at}/mute`, l.mute ? 0 : 1)])}
        >
          {l.mute ? <VolumeX size={14} /> : <Volume2 size={14} />}
        </button>
        <button
          type="button"
          className={`h-8 w-[150px] shrink-0 cursor-pointer max-[1160px]:w-[90px] ${l.flip ? "-scale-y-100" : ""} ${l.mute ? "opacity-40" : ""}`}
          aria-pressed={open}
          aria-label={`Shape ${l.name}`}
          title="Shape this layer"
          onClick={() => onChoose(l.id)}
        >
          {drawn?.wave && (
            <SmallWave points={drawn.wave.points as [number, number][]} colour={hue(voice.family)} />
          )}
          {drawn?.curves && <SmallCurves curves={drawn.curves} span={drawn.span_ms} />}
          {!drawn && missing && <span className="text-[12px] text-error">its sound is missing</span>}
        </button>
        <TextBox
          label={`Name of layer ${l.name}`}
          value={l.name}
          width={150}
          className="max-[1160px]:w-[110px]!"
          onCommit={(name) => name !== "" && edit([{ op: "layer.rename", ...of, name }])}
        />
        <span className="grow text-[12px] text-muted max-[1160px]:invisible max-[1160px]:w-0">
          {l.recipe ? "synthesized" : "recorded"}
          {drawn?.wave && <span className="num ml-2">{num(drawn.span_ms, 0)} ms</span>}
          <span className="num ml-2">{num(l.level_db)} dB</span>
        </span>
        {switches.map((p) => (
          <button
            key={p.id}
            type="button"
            className="press px-2"
            aria-pressed={layerValue(l, p.id) === 1}
            onClick={() => edit([setNumber(`${at}/${p.id}`, 1 - layerValue(l, p.id))])}
          >
            {p.label}
          </button>
        ))}
        <button
          type="button"
          className="press px-2"
          aria-pressed={l.flip}
          title="Flips its polarity: try it where two layers cancel"
          onClick={() => edit([setNumber(`${at}/flip`, l.flip ? 0 : 1)])}
        >
          Flip
        </button>
        <button
          type="button"
          className="press px-2"
          aria-label={`Move ${l.name} up`}
          title="Up"
          disabled={place === 0}
          onClick={() => edit([{ op: "layer.move", ...of, to: place - 1 }])}
        >
          <ArrowUp size={14} />
        </button>
        <button
          type="button"
          className="press px-2"
          aria-label={`Move ${l.name} down`}
          title="Down"
          disabled={place === voice.layers.length - 1}
          onClick={() => edit([{ op: "layer.move", ...of, to: place + 1 }])}
        >
          <ArrowDown size={14} />
        </button>
        <button
          type="button"
          className="press px-2"
          aria-label={`Remove ${l.name}`}
          title="Remove this layer"
          onClick={() => edit([{ op: "layer.remove", ...of }])}
        >
          <Trash2 size={14} />
        </button>
      </div>
      {open && (
        <div className="mt-1 grid grid-cols-3 gap-x-6 max-[1160px]:grid-cols-2">
          {rows.map((p) => (
            <ParamField
              key={p.id}
              param={p}
              at={at}
              value={layerValue(l, p.id)}
              hint={hints[p.id] ?? ""}
              percent={p.id === "pan"}
              {...(p.unit === "Hz" || p.id.endsWith("decay_ms") ? { digits: 0 } : {})}
              step={p.scale === "dB" ? 0.5 : 1}
            />
          ))}
        </div>
      )}
    </fieldset>
  );
}

/** The levels of a recipe's parts, in small. */
function SmallCurves({ curves, span }: { curves: Schemas["Curves"]; span: number }) {
  const y = (db: number) => 3 + (26 * (6 - Math.min(Math.max(db, -48), 6))) / 54;
  return (
    <svg viewBox="0 0 150 32" className="h-8 w-full" aria-hidden="true">
      {curves.level.map((c) => (
        <polyline
          key={c.part}
          points={c.points
            .map(([ms, db]) => `${((ms ?? 0) / span) * 150},${y(db ?? -48).toFixed(1)}`)
            .join(" ")}
          fill="none"
          stroke={partColour[c.part]}
          strokeWidth={1.6}
        />
      ))}
    </svg>
  );
}
