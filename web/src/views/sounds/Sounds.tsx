// Sounds: build a drum from its parts and layers on one time axis, beside its
// target.
import { useEffect, useRef, useState } from "react";
import type { Family, Layer, State, Voice } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { Choice } from "../../parts/Choice";
import { familyName } from "../../parts/family";
import { noteText } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { TextBox } from "../../parts/TextBox";
import { useWidth } from "../../parts/useWidth";
import { synthOf } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useInfo, useLibrary, useVoiceFacts, useVoiceSound } from "../../state/queries";
import { useSelection } from "../../state/selection";
import { useShaping } from "../../state/shaping";
import { Attempts } from "./Attempts";
import { Chain } from "./Chain";
import { Charts } from "./Charts";
import { Find } from "./Find";
import { Fit } from "./Fit";
import { Kits } from "./Kits";
import { Layers } from "./Layers";
import { Many } from "./Many";
import { partIDs, partOn } from "./parts";
import { SoundPanel } from "./SoundPanel";
import { VoiceBar } from "./VoiceBar";

export function Sounds({ state }: { state: State }) {
  const sel = useSelection();
  const edit = useProject((p) => p.edit);
  const shaping = useShaping();
  const info = useInfo().data;
  const voices = state.document.kit.voices;
  const voice = voices.find((v) => v.id === sel.voice) ?? voices[0];
  const { data: sound, isFetching, error } = useVoiceSound(voice?.id ?? "", shaping.slow);
  const [ref, width] = useWidth<HTMLDivElement>();
  // A layer that has just been added is the one to be shaped.
  const before = useRef({ voice: "", layers: 0 });
  useEffect(() => {
    const now = { voice: voice?.id ?? "", layers: voice?.layers.length ?? 0 };
    const added = voice?.layers.at(-1);
    if (added && now.voice === before.current.voice && now.layers === before.current.layers + 1)
      useShaping.getState().set({ layer: added.id, item: added.recipe ? "part:body" : "layer" });
    before.current = now;
  }, [voice]);
  const shaped =
    voice && (voice.layers.find((l) => l.id === shaping.layer) ?? synthOf(voice) ?? voice.layers[0]);
  const silent = info?.limits.silent_db ?? -60;
  const recipe = shaped?.recipe ?? null;
  const of = `${voice?.id}/${shaped?.id}`;
  // Where another layer comes on show, what is shaped is a part of it that sounds; one
  // that is switched off then stays on show.
  const shown = useRef("");
  useEffect(() => {
    if (shown.current === of || !recipe) return;
    shown.current = of;
    const { item, set } = useShaping.getState();
    const part = partIDs.find((p) => item === `part:${p}`);
    const gone = item.startsWith("effect:") && !recipe.effects.some((s) => item === `effect:${s.id}`);
    const on = partIDs.find((p) => partOn(recipe, p, silent));
    if (on && (gone || (part && !partOn(recipe, part, silent)))) set({ item: `part:${on}` });
  }, [of, recipe, silent]);
  if (!voice)
    return (
      <main className="grow p-6">
        <VoiceBar voices={voices} voice={voice} />
        <p className="text-muted">This kit has no voices yet. Add one.</p>
      </main>
    );
  const layer = shaped;
  return (
    <>
      <main className="flex min-w-0 grow flex-col overflow-y-auto px-4 py-3">
        <VoiceBar voices={voices} voice={voice} />
        <div className="mb-1 flex flex-wrap items-center gap-x-3 gap-y-1">
          <h1>
            <TextBox
              key={voice.id}
              label="Name of the voice"
              value={voice.name}
              width={Math.max(60, voice.name.length * 12 + 18)}
              className="font-display text-2xl! font-semibold"
              onCommit={(name) => name !== "" && edit([{ op: "voice.rename", voice: voice.id, name }])}
            />
          </h1>
          <label className="flex shrink-0 items-baseline gap-1.5 text-xs whitespace-nowrap text-muted">
            filed as
            <select
              className="cursor-pointer rounded border border-transparent bg-transparent text-sm text-base-content hover:border-line"
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
          <button
            type="button"
            className="min-w-0 cursor-pointer truncate text-xs text-muted underline decoration-dotted underline-offset-2"
            title="What stops it, what opens it, how it answers to velocity"
            onClick={() => shaping.set({ item: "voice" })}
          >
            {voiceText(voice, voices)}
          </button>
          <span className="grow" />
          <fieldset className="flex gap-1.5" aria-label="Library">
            <button
              type="button"
              className="press"
              aria-pressed={shaping.panel === "many"}
              disabled={!layer?.recipe}
              title="Variants of this layer"
              onClick={() => shaping.set({ panel: shaping.panel === "many" ? "charts" : "many" })}
            >
              Make variants
            </button>
            <button
              type="button"
              className="press"
              aria-pressed={shaping.panel === "fit"}
              title="Search a recipe that sounds like a target"
              onClick={() => shaping.set({ panel: shaping.panel === "fit" ? "charts" : "fit" })}
            >
              Fit
            </button>
            <button
              type="button"
              className="press"
              aria-pressed={shaping.panel === "find"}
              title="Other sounds for this voice"
              onClick={() => shaping.set({ panel: shaping.panel === "find" ? "charts" : "find" })}
            >
              Find
            </button>
            <button
              type="button"
              className="press"
              aria-pressed={shaping.panel === "kits"}
              title="Other kits for this pattern"
              onClick={() => shaping.set({ panel: shaping.panel === "kits" ? "charts" : "kits" })}
            >
              Kits
            </button>
          </fieldset>
          {layer?.recipe && partOn(layer.recipe, "body", silent) && <NoteBox voice={voice} layer={layer} />}
        </div>
        {shaping.panel === "find" && <Find key={voice.id} voice={voice} />}
        {shaping.panel === "many" && layer?.recipe && (
          <Many key={voice.id + layer.id} voice={voice} layer={layer} />
        )}
        {shaping.panel === "fit" && <Fit key={voice.id} voice={voice} layer={layer} />}
        {shaping.panel === "kits" && <Kits />}
        {(shaping.panel === "charts" || (shaping.panel === "many" && !layer?.recipe)) && (
          <>
            <div className="mb-1 flex items-center gap-2">
              <Attempts key={voice.id} voice={voice} />
              <SlowDown voice={voice} />
              <Choice
                label="Time in"
                value={shaping.unit}
                options={[
                  ["ms", "ms"],
                  ["beats", "beats"],
                ]}
                onChange={(unit) => shaping.set({ unit })}
              />
            </div>
            <Layers
              voice={voice}
              chosen={layer}
              onChoose={(id) => shaping.set({ layer: id })}
              sound={sound}
              isFetching={isFetching}
              info={info}
            />
            {layer?.recipe && info && (
              <Chain place={{ voice: voice.id, layer: layer.id }} recipe={layer.recipe} info={info} />
            )}
            <div ref={ref}>
              {width > 0 && sound && <Charts voice={voice} layer={layer} sound={sound} width={width} />}
            </div>
            {!sound && (
              <p className="rowbox flex h-[120px] items-center justify-center text-muted" role="status">
                {error ? error.message : `Rendering and measuring ${voice.name}…`}
              </p>
            )}
            {layer?.recipe && <CurveActions voice={voice} layer={layer} />}
          </>
        )}
      </main>
      <SoundPanel voice={voice} layer={layer} sound={sound} info={info} />
    </>
  );
}

/** The sound slower, to see and hear what follows fast. */
function SlowDown({ voice }: { voice: Voice }) {
  const { slow, set } = useShaping();
  const studying = useMonitor((m) => m.studying);
  const choose = (by: number) => {
    set({ slow: by });
    if (by === 1) monitor.stop();
    else void monitor.study({ voice: voice.id, speed: 1 / by, keep_pitch: false });
  };
  return (
    <select
      className={`press h-8 px-1 text-sm ${slow > 1 && studying ? "bg-row!" : ""}`}
      aria-label="Speed of the sound"
      title="The sound slower, seen and heard, with its pitch"
      value={slow}
      onChange={(e) => choose(Number(e.target.value))}
    >
      {[1, 2, 4, 8, 16].map((by) => (
        <option key={by} value={by}>
          {by === 1 ? "1 ×" : `1/${by} ×`}
        </option>
      ))}
    </select>
  );
}

/** What is special about a voice, in a few words. */
function voiceText(v: Voice, voices: Voice[]): string {
  const name = (id: string) => voices.find((o) => o.id === id)?.name ?? id;
  const parts = [
    v.mono ? "one note at a time" : "",
    v.cut_by.length > 0 ? `stopped by ${v.cut_by.map(name).join(", ")}` : "",
    v.gate ? `opened by ${name(v.gate.by)}` : "",
  ].filter(Boolean);
  return parts.length > 0 ? parts.join(", ") : "no choke";
}

function CurveActions({ voice, layer }: { voice: Voice; layer: Layer }) {
  const edit = useProject((p) => p.edit);
  const at = { voice: voice.id, layer: layer.id };
  const library = useLibrary().data;
  const [copied, setCopied] = useState(false);
  useEffect(() => setCopied(sessionStorage.getItem("curve") !== null));
  return (
    <div className="mt-1.5 flex items-center gap-3 rounded-lg border border-dashed border-line px-3 py-1.5 text-xs text-muted">
      <button
        type="button"
        className="press"
        onClick={() =>
          edit([
            {
              op: "curve.add",
              ...at,
              curve: {
                id: "",
                name: "",
                unit: "ms",
                round: -1,
                lasts: 0,
                points: [
                  { at: 0, value: 1, bend: 0.45, smooth: false },
                  { at: 120, value: 0, bend: 0, smooth: false },
                ],
              },
            },
          ])
        }
      >
        Add a curve
      </button>
      <Menu
        label="From the library"
        title="A curve that was kept, or one that ships"
        up
        items={(library?.curves ?? []).map((c) => ({
          text: c.curve.name,
          hint: `${c.own ? "mine, " : ""}in ${c.curve.unit}${c.curve.round >= 0 ? ", round and round" : ""}`,
          onClick: () => edit([{ op: "curve.add", ...at, curve: { ...c.curve, id: "" } }]),
        }))}
      />
      {copied && (
        <button
          type="button"
          className="press"
          onClick={() => {
            const text = sessionStorage.getItem("curve");
            if (text) edit([{ op: "curve.add", ...at, curve: { ...JSON.parse(text), id: "" } }]);
          }}
        >
          Paste the curve
        </button>
      )}
      <span>
        Any parameter at the right can be modulated by one. Double click a chart to draw its line yourself;
        drag the dots to bend it.
      </span>
    </div>
  );
}

function NoteBox({ voice, layer }: { voice: Voice; layer: Layer }) {
  const edit = useProject((p) => p.edit);
  const [text, setText] = useState<string | null>(null);
  const facts = useVoiceFacts().data?.voices.find((v) => v.voice === voice.id);
  const hz = facts?.layer_hz[voice.layers.findIndex((l) => l.id === layer.id)] ?? 0;
  return (
    <label className="flex items-center gap-1.5 text-sm">
      note
      <input
        className="press num h-7 w-[104px] cursor-text"
        aria-label={`Note of the ${voice.name}`}
        title="Where its pitch settles: a note, perhaps with cents (G1 +12). Falls and curves that drive it move along"
        value={text ?? (hz > 0 ? noteText(hz) : "–")}
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
