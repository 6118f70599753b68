import { useEffect, useRef, useState } from "react";
import type { Family, Layer, Schemas, State, Voice, VoiceSound } from "../../api/client";
import { familyName, hue } from "../../parts/family";
import { clamp, noteText, num } from "../../parts/format";
import { TextBox } from "../../parts/TextBox";
import { useWidth } from "../../parts/useWidth";
import { layerAt, layerValue, setNumber, synthOf } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useInfo, useVoiceSound } from "../../state/queries";
import { useSelection } from "../groove/selection";
import { Chart, type Handle, labelWidth, right } from "./Chart";
import { Layers } from "./Layers";
import { partColour } from "./parts";
import { SoundFacts } from "./SoundFacts";
import { VoiceBar } from "./VoiceBar";

export function Sounds({ state }: { state: State }) {
  const sel = useSelection();
  const edit = useProject((p) => p.edit);
  const info = useInfo().data;
  const voices = state.document.kit.voices;
  const voice = voices.find((v) => v.id === sel.voice) ?? voices[0];
  const { data: sound, isFetching, error } = useVoiceSound(voice?.id ?? "");
  const [ref, width] = useWidth<HTMLDivElement>();
  const [chosen, setChosen] = useState("");
  // A layer that has just been added is the one to be shaped.
  const before = useRef({ voice: "", layers: 0 });
  useEffect(() => {
    const now = { voice: voice?.id ?? "", layers: voice?.layers.length ?? 0 };
    const added = voice?.layers.at(-1);
    if (added && now.voice === before.current.voice && now.layers === before.current.layers + 1)
      setChosen(added.id);
    before.current = now;
  }, [voice]);
  if (!voice)
    return (
      <main className="grow p-6">
        <VoiceBar voices={voices} voice={voice} />
        <p className="text-muted">This kit has no voices yet. Add one.</p>
      </main>
    );
  const layer = voice.layers.find((l) => l.id === chosen) ?? synthOf(voice) ?? voice.layers[0];
  const stoppedBy = voice.cut_by.map((id) => voices.find((v) => v.id === id)?.name ?? id);
  return (
    <>
      <main className="flex min-w-0 grow flex-col overflow-y-auto px-4 py-3">
        <VoiceBar voices={voices} voice={voice} />
        <div className="mb-1 flex items-baseline gap-3">
          <h1>
            <TextBox
              key={voice.id}
              label="Name of the voice"
              value={voice.name}
              width={Math.max(60, voice.name.length * 12 + 18)}
              className="font-display text-[21px]! font-semibold"
              onCommit={(name) => name !== "" && edit([{ op: "voice.rename", voice: voice.id, name }])}
            />
          </h1>
          <label className="flex items-baseline gap-1.5 text-[12px] text-muted">
            filed as
            <select
              className="cursor-pointer rounded border border-transparent bg-transparent text-[13px] text-base-content hover:border-line"
              aria-label="Family of the voice"
              value={voice.family}
              onChange={(e) =>
                edit([{ op: "voice.refile", voice: voice.id, family: e.target.value as Family }])
              }
            >
              {(info?.families ?? [voice.family]).map((f) => (
                <option key={f} value={f}>
                  {familyName(f)}
                </option>
              ))}
            </select>
          </label>
          <span className="text-[12px] text-muted">
            {[
              voice.mono ? "one note at a time" : "",
              stoppedBy.length > 0 ? `stopped by ${stoppedBy.join(", ")}` : "",
            ]
              .filter(Boolean)
              .join(", ")}
          </span>
          <span className="grow" />
          {layer?.recipe && <NoteBox voice={voice} layer={layer} />}
        </div>
        <div ref={ref}>
          {width > 0 && sound && <Charts voice={voice} layer={layer} sound={sound} width={width} />}
        </div>
        {!sound && (
          <p className="rowbox flex h-[120px] items-center justify-center text-muted" role="status">
            {error ? error.message : `Rendering and measuring ${voice.name}…`}
          </p>
        )}
        <Layers
          voice={voice}
          chosen={layer}
          onChoose={setChosen}
          sound={sound}
          isFetching={isFetching}
          info={info}
        />
        <p className="mt-2 text-[12px] text-muted">
          Drag a diamond on a chart, or edit the numbers at the right. Every change is heard while it plays.
        </p>
      </main>
      <SoundFacts voice={voice} layer={layer} sound={sound} info={info} />
    </>
  );
}

function NoteBox({ voice, layer }: { voice: Voice; layer: Layer }) {
  const edit = useProject((p) => p.edit);
  const [text, setText] = useState<string | null>(null);
  return (
    <label className="flex items-center gap-1.5 text-[13px]">
      note
      <input
        className="press num h-7 w-[72px] cursor-text"
        aria-label={`Note of the ${voice.name}`}
        title="Tunes the body; the start of its fall moves along"
        value={text ?? noteText(layerValue(layer, "body.end_hz")).split(" ")[0] ?? ""}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
        onBlur={() => {
          if (text !== null) edit([{ op: "voice.note", voice: voice.id, layer: layer.id, note: text }]);
          setText(null);
        }}
      />
    </label>
  );
}

const floorDB = -48;

const none: Schemas["Curves"] = { pitch: [], level: [], drive: [] };

/** The voice's wave, and over the same time what the chosen layer does. */
function Charts({
  voice,
  layer,
  sound,
  width,
}: {
  voice: Voice;
  layer: Layer | undefined;
  sound: VoiceSound;
  width: number;
}) {
  const edit = useProject((p) => p.edit);
  const recipe = layer?.recipe ? layer : null;
  const curves = sound.layers.find((l) => l.id === layer?.id)?.curves ?? none;
  const inner = width - labelWidth - right;
  const span = sound.span_ms;
  const x = (ms: number) => (ms / span) * inner;
  const ms = (px: number) => clamp((px / inner) * span, 0.1, span * 2);
  const set = (param: string, value: number, g: string) =>
    layer && edit([setNumber(`${layerAt(voice.id, layer.id)}/${param}`, value)], g);
  const v = (id: string) => (recipe ? layerValue(recipe, id) : 0);
  const back = (param: string) => {
    const was = v(param);
    return (g: string) => set(param, was, g);
  };

  const waveH = 104;
  const peak = Math.max(
    ...sound.wave.points.map((p) => Math.max(Math.abs(p[0] ?? 0), Math.abs(p[1] ?? 0))),
    1e-6,
  );
  const wy = (s: number) => waveH / 2 - (s / peak) * (waveH / 2 - 8);
  const n = sound.wave.points.length;
  const polygon = [
    ...sound.wave.points.map((p, i) => `${((i / n) * inner).toFixed(1)},${wy(p[1] ?? 0).toFixed(1)}`),
    ...sound.wave.points
      .map((p, i) => `${((i / n) * inner).toFixed(1)},${(wy(p[0] ?? 0) + 0.8).toFixed(1)}`)
      .reverse(),
  ].join(" ");

  const pitchH = 128;
  const body = curves.pitch[0];
  const start = v("body.start_hz");
  const end = v("body.end_hz");
  const lowHz = Math.min(start, end) / 1.5;
  const highHz = Math.max(start, end) * 1.4;
  const py = (hz: number) =>
    pitchH - 14 - (Math.log(clamp(hz, lowHz, highHz) / lowHz) / Math.log(highHz / lowHz)) * (pitchH - 28);
  const toHz = (y: number) => lowHz * (highHz / lowHz) ** ((pitchH - 14 - y) / (pitchH - 28));
  const fall = v("body.fall_ms");
  const octaves = Array.from({ length: 12 }, (_, i) => 16.3516 * 2 ** i).filter(
    (hz) => hz > lowHz && hz < highHz,
  );
  const pitchHandles: Handle[] = [
    {
      id: "start",
      name: "Start pitch",
      x: 0,
      y: py(start),
      onDrag: (_x, y, g) => set("body.start_hz", toHz(y), g),
      onCancel: back("body.start_hz"),
    },
    {
      id: "fall",
      name: "Fall time",
      x: x(Math.min(fall, span)),
      y: py(end * (start / end) ** Math.exp(-3)),
      onDrag: (px, _y, g) => set("body.fall_ms", ms(px), g),
      onCancel: back("body.fall_ms"),
    },
    {
      id: "end",
      name: "End pitch",
      x: inner - 4,
      y: py(end),
      onDrag: (_x, y, g) => set("body.end_hz", toHz(y), g),
      onCancel: back("body.end_hz"),
    },
  ];

  const levelH = 136;
  const ly = (db: number) => 14 + (clamp(db, floorDB, 6) / (floorDB - 6) - 6 / (floorDB - 6)) * (levelH - 26);
  const toDB = (y: number) => 6 + ((y - 14) / (levelH - 26)) * (floorDB - 6);
  const levelHandles: Handle[] = ["body", "noise", "metal", "snap"].flatMap((part) => {
    const level = v(`${part}.level_db`);
    if (!curves.level.some((c) => c.part === part)) return [];
    const attack = part === "body" ? v("body.attack_ms") : 0;
    const decay = v(`${part}.decay_ms`);
    const half = 24; // the handle for the decay sits this far down, dB
    const at = attack + (decay * half) / 60;
    return [
      {
        id: `${part}-level`,
        name: `${part} level`,
        x: x(attack),
        y: ly(level),
        onDrag: (_px: number, y: number, g: string) => set(`${part}.level_db`, clamp(toDB(y), -47, 6), g),
        onCancel: back(`${part}.level_db`),
      },
      {
        id: `${part}-decay`,
        name: `${part} decay`,
        x: x(Math.min(at, span)),
        y: ly(level - half),
        onDrag: (px: number, _y: number, g: string) =>
          set(`${part}.decay_ms`, ((ms(px) - attack) * 60) / half, g),
        onCancel: back(`${part}.decay_ms`),
      },
    ];
  });

  const driveH = 84;
  const dy = (percent: number) => driveH - 12 - (percent / 100) * (driveH - 24);
  const toPercent = (y: number) => clamp(((driveH - 12 - y) / (driveH - 24)) * 100, 0, 100);
  const driveHandles: Handle[] = [
    {
      id: "drive-attack",
      name: "Drive at the attack",
      x: 0,
      y: dy(v("drive.attack_percent")),
      onDrag: (_x, y, g) => set("drive.attack_percent", toPercent(y), g),
      onCancel: back("drive.attack_percent"),
    },
    {
      id: "drive-body",
      name: "Drive in the body",
      x: inner - 4,
      y: dy(v("drive.body_percent")),
      onDrag: (_x, y, g) => set("drive.body_percent", toPercent(y), g),
      onCancel: back("drive.body_percent"),
    },
  ];
  const drive = curves.drive[0];
  const marks = Array.from({ length: 5 }, (_, i) => (span / 4) * i);
  const points = (c: [number, number][] | number[][], y: (v: number) => number) =>
    c.map((p) => [x(p[0] ?? 0), y(p[1] ?? 0)] as [number, number]);
  return (
    <>
      <svg width={width} height={20} aria-hidden="true">
        {marks.map((m, i) => (
          <g key={m}>
            <line x1={labelWidth + x(m)} x2={labelWidth + x(m)} y1={14} y2={20} stroke="var(--line-strong)" />
            <text x={labelWidth + x(m)} y={11} textAnchor={i === 4 ? "end" : i === 0 ? "start" : "middle"}>
              {num(m, 0)} ms
            </text>
          </g>
        ))}
      </svg>
      <div className="flex flex-col gap-1">
        <Chart title="Wave" sub="one hit" width={width} height={waveH} ticks={[]} lines={[]} handles={[]}>
          <line x1={0} x2={inner} y1={waveH / 2} y2={waveH / 2} stroke="var(--line)" />
          <polygon points={polygon} fill={hue(voice.family)} />
        </Chart>
        {!recipe && (
          <p className="rowbox px-3 py-2 text-[12px] text-muted">
            {layer
              ? `${layer.name} is a recording: its numbers stand below.`
              : "This voice has no layers. Add one below."}
          </p>
        )}
        {recipe && body && (
          <Chart
            title="Pitch"
            sub="of the body"
            width={width}
            height={pitchH}
            ticks={octaves.map((hz) => ({ y: py(hz), text: (noteText(hz).split(" ")[0] ?? "").slice(0, 4) }))}
            lines={[{ id: "pitch", colour: partColour.body ?? "", points: points(body.points, py) }]}
            handles={pitchHandles}
          >
            <text
              x={inner - 10}
              y={py(end) - 12}
              textAnchor="end"
              style={{ fill: "var(--color-base-content)", fontSize: 12 }}
            >
              settles at {num(end)} Hz, {noteText(end)}
            </text>
          </Chart>
        )}
        {recipe && !body && (
          <p className="rowbox px-3 py-2 text-[12px] text-muted">
            No body, so no pitch curve. Switch the body on at the right.
          </p>
        )}
        {recipe && (
          <>
            <Chart
              title="Level"
              sub="by part"
              width={width}
              height={levelH}
              ticks={[0, -24, -48].map((db) => ({ y: ly(db), text: db === 0 ? "0 dB" : `−${-db}` }))}
              lines={curves.level.map((c) => ({
                id: c.part,
                colour: partColour[c.part] ?? "",
                points: points(c.points, ly),
              }))}
              handles={levelHandles}
            >
              {curves.level.map((c, i) => (
                <text
                  key={c.part}
                  x={inner - 10}
                  y={20 + i * 15}
                  textAnchor="end"
                  style={{ fill: partColour[c.part], fontWeight: 600 }}
                >
                  {c.part}
                </text>
              ))}
            </Chart>
            <Chart
              title="Drive"
              sub="amount"
              width={width}
              height={driveH}
              ticks={[100, 0].map((t) => ({ y: dy(t), text: `${t}%` }))}
              lines={
                drive
                  ? [{ id: "drive", colour: partColour.drive ?? "", points: points(drive.points, dy) }]
                  : []
              }
              handles={driveHandles}
            />
          </>
        )}
      </div>
    </>
  );
}
