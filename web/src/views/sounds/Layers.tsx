// The sounds that a voice strikes together, as cards: recipes, recordings, a
// rumble. One of them is chosen; its parts and numbers are below and at the right.
import {
  ArrowLeft,
  ArrowRight,
  AudioWaveform,
  FileAudio,
  Mic,
  Plus,
  Trash2,
  Volume2,
  VolumeX,
  Waves,
} from "lucide-react";
import { useRef, useState } from "react";
import type { Info, Layer, Schemas, Voice, VoiceSound } from "../../api/client";
import { hue } from "../../parts/family";
import { num } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { SmallWave } from "../../parts/SmallWave";
import { TextBox } from "../../parts/TextBox";
import { layerAt, setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { louder } from "./Attempts";
import { layerKind, partColour } from "./parts";
import { RecordSound } from "./RecordSound";
import { usePreview } from "./usePreview";

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
  const [recording, setRecording] = useState(false);
  const full = voice.layers.length >= (info?.limits.layers ?? 0);
  const add = (file: File) => addLayer(voice.id, file);
  const fresh = info && { ...info.rumble, name: "", rumble: null };
  return (
    <section
      aria-label="Layers"
      className={`mb-1.5 rounded-lg ${over ? "outline-2 outline-dashed outline-ref" : ""}`}
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes("Files")) return;
        e.preventDefault();
        e.nativeEvent.stopPropagation();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        if (!e.dataTransfer.types.includes("Files")) return;
        e.preventDefault();
        // Elsewhere a dropped file becomes the reference.
        e.nativeEvent.stopPropagation();
        setOver(false);
        const file = e.dataTransfer.files[0];
        if (file) void add(file);
      }}
    >
      <div className="flex flex-wrap items-stretch gap-1.5">
        {voice.layers.map((l, i) => (
          <Card
            key={l.id}
            voice={voice}
            layer={l}
            place={i}
            open={l.id === chosen?.id}
            onChoose={onChoose}
            drawn={sound?.layers.find((d) => d.id === l.id)}
            missing={sound !== undefined && !isFetching}
            job={sound?.jobs.find((j) => j.layer === l.id)}
          />
        ))}
        {!full && (
          <Menu
            label="Add a layer"
            name="Add a layer"
            title="Struck together with the others; a one-shot can also be dropped here"
            face={
              <span className="flex items-center gap-1 text-sm whitespace-nowrap">
                <Plus size={14} /> layer
              </span>
            }
            items={[
              {
                text: "A synth",
                hint: "One more drum, made from its parts",
                icon: <AudioWaveform size={14} />,
                onClick: () => fresh && edit([{ op: "layer.add", voice: voice.id, layer: fresh }]),
              },
              {
                text: "A one-shot",
                hint: "A recorded sound: WAV, AIFF, FLAC or MP3",
                icon: <FileAudio size={14} />,
                onClick: () => input.current?.click(),
              },
              {
                text: "A recording by microphone",
                hint: "A kitchen object, a beatboxed hat",
                icon: <Mic size={14} />,
                onClick: () => setRecording(true),
              },
              {
                text: "A rumble",
                hint: "A long dark reverb of the voice, ducked by the hit",
                icon: <Waves size={14} />,
                onClick: () => info && edit([{ op: "layer.add", voice: voice.id, layer: info.rumble }]),
              },
            ]}
          />
        )}
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
      {recording && <RecordSound voice={voice.id} onDone={() => setRecording(false)} />}
      {sound?.together?.text && (
        <div className="mt-1 flex items-center gap-3 text-xs">
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
    </section>
  );
}

function Card({
  voice,
  layer: l,
  place,
  open,
  onChoose,
  drawn,
  missing,
  job,
}: {
  voice: Voice;
  layer: Layer;
  place: number;
  open: boolean;
  onChoose: (layer: string) => void;
  drawn: Schemas["LayerSound"] | undefined;
  missing: boolean;
  job: Schemas["LayerJob"] | undefined;
}) {
  const preview = usePreview(voice);
  const [without, setWithout] = useState(false);
  /** Off and on, as loud either way. */
  const compare = () => {
    if (without) preview.back();
    else
      preview.hear(
        louder(
          voice.layers.map((o) => (o.id === l.id ? { ...o, mute: true } : o)),
          job?.loudness_lu ?? 0,
        ),
        `without ${l.name}, at the same loudness`,
      );
    setWithout(!without);
  };
  const edit = useProject((p) => p.edit);
  const shape = useShaping((s) => s.set);
  const at = layerAt(voice.id, l.id);
  const of = { voice: voice.id, layer: l.id };
  const small = "cursor-pointer rounded px-1 py-0.5 text-2xs hover:bg-base-300 disabled:opacity-30";
  const pressed = (on: boolean) => `${small} ${on ? "bg-neutral text-neutral-content hover:bg-neutral" : ""}`;
  return (
    <fieldset
      className={`w-[230px] min-w-0 rounded-lg border px-2 py-1 ${open ? "border-base-content/60 bg-row" : "border-line bg-base-100"}`}
      aria-label={`Layer ${l.name}`}
    >
      <div className="flex items-center gap-1">
        <TextBox
          label={`Name of layer ${l.name}`}
          value={l.name}
          width={112}
          className="text-sm! font-semibold"
          onCommit={(name) => name !== "" && edit([{ op: "layer.rename", ...of, name }])}
        />
        <button
          type="button"
          className={`h-7 min-w-0 grow cursor-pointer ${l.flip ? "-scale-y-100" : ""} ${l.mute ? "opacity-30" : ""}`}
          aria-pressed={open}
          aria-label={`Shape ${l.name}`}
          title="Shape this layer"
          onClick={() => {
            onChoose(l.id);
            shape({ item: l.recipe ? "part:body" : "layer" });
          }}
        >
          {drawn?.wave && (
            <SmallWave points={drawn.wave.points as [number, number][]} colour={hue(voice.family)} />
          )}
          {drawn?.curves && <SmallCurves curves={drawn.curves} span={drawn.span_ms} />}
          {l.rumble && <Waves size={18} className="mx-auto text-muted" />}
          {!drawn && !l.rumble && missing && (
            <span className="text-2xs text-error">its sound is missing</span>
          )}
        </button>
      </div>
      <div
        className="truncate text-2xs leading-4 text-muted"
        title={`${layerKind(l)}${job ? `; ${job.text}` : ""}`}
      >
        {[
          layerKind(l),
          l.level_db !== 0 ? `${num(l.level_db)} dB` : "",
          l.above_hz > 20 ? `above ${num(l.above_hz, 0)} Hz` : "",
          l.below_hz < 20000 ? `below ${num(l.below_hz, 0)} Hz` : "",
          job?.text ?? "",
        ]
          .filter(Boolean)
          .join(" · ")}
      </div>
      <div className="flex items-center gap-0.5">
        <button
          type="button"
          className={pressed(l.mute)}
          aria-pressed={l.mute}
          aria-label={l.mute ? `Unmute ${l.name}` : `Mute ${l.name}`}
          title={l.mute ? "Unmute this layer" : "Mute this layer"}
          onClick={() => edit([setNumber(`${at}/mute`, l.mute ? 0 : 1)])}
        >
          {l.mute ? <VolumeX size={13} /> : <Volume2 size={13} />}
        </button>
        <button
          type="button"
          className={pressed(l.solo)}
          aria-pressed={l.solo}
          title="Only this layer of the voice"
          onClick={() => edit([setNumber(`${at}/solo`, l.solo ? 0 : 1)])}
        >
          Solo
        </button>
        <button
          type="button"
          className={pressed(l.flip)}
          aria-pressed={l.flip}
          title="Inverts its polarity: try it where two layers cancel"
          onClick={() => edit([setNumber(`${at}/flip`, l.flip ? 0 : 1)])}
        >
          Invert
        </button>
        {job && (
          <button
            type="button"
            className={pressed(without)}
            aria-pressed={without}
            aria-label={`The voice without ${l.name}`}
            title={`Off and on at the same loudness: ${job.text}`}
            onClick={compare}
          >
            Off/on
          </button>
        )}
        <span className="grow" />
        <button
          type="button"
          className={small}
          aria-label={`Move ${l.name} up`}
          title="Earlier in the row"
          disabled={place === 0}
          onClick={() => edit([{ op: "layer.move", ...of, to: place - 1 }])}
        >
          <ArrowLeft size={13} />
        </button>
        <button
          type="button"
          className={small}
          aria-label={`Move ${l.name} down`}
          title="Later in the row"
          disabled={place === voice.layers.length - 1}
          onClick={() => edit([{ op: "layer.move", ...of, to: place + 1 }])}
        >
          <ArrowRight size={13} />
        </button>
        <button
          type="button"
          className={small}
          aria-label={`Remove ${l.name}`}
          title="Remove this layer"
          onClick={() => edit([{ op: "layer.remove", ...of }])}
        >
          <Trash2 size={13} />
        </button>
      </div>
    </fieldset>
  );
}

/** The levels of a recipe's parts, in small. */
function SmallCurves({ curves, span }: { curves: Schemas["Curves"]; span: number }) {
  const y = (db: number) => 3 + (22 * (6 - Math.min(Math.max(db, -48), 6))) / 54;
  return (
    <svg viewBox="0 0 90 28" className="h-7 w-full" preserveAspectRatio="none" aria-hidden="true">
      {curves.level.map((c) => (
        <polyline
          key={c.part}
          points={c.points
            .map(([ms, db]) => `${((ms ?? 0) / span) * 90},${y(db ?? -48).toFixed(1)}`)
            .join(" ")}
          fill="none"
          stroke={partColour[c.part]}
          strokeWidth={1.6}
          vectorEffect="non-scaling-stroke"
        />
      ))}
    </svg>
  );
}
