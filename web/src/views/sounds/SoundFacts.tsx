// Right of the charts: the recipe by number, and what the render measures.
import type { Info, Layer, Param, Schemas, Voice, VoiceSound } from "../../api/client";
import { noteText, num } from "../../parts/format";
import { ParamField } from "../../parts/ParamField";
import { layerAt, layerValue, setNumber, useParam } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useActiveReference, useAnalysis } from "../../state/queries";
import { rangeText } from "../reference/ranges";
import { SmallWave } from "../reference/Slices";
import { partNames } from "./parts";

/** What is told of a sound, with units. */
function measured(m: Schemas["Measures"] | undefined): [string, string][] {
  const told = (v: number | null | undefined, unit: string, digits = 1) =>
    v === null || v === undefined ? "–" : `${num(v, digits)} ${unit}`;
  return [
    ["Fundamental", m?.fundamental_hz ? `${num(m.fundamental_hz)} Hz` : m ? "no pitch" : "–"],
    ["Note", m?.fundamental_hz ? noteText(m.fundamental_hz) : "–"],
    ["Decay, 60 dB", told(m?.decay_60db_ms, "ms", 0)],
    ["Attack", told(m?.attack_ms, "ms")],
    ["Brightness", told(m?.spectral_centroid_hz, "Hz", 0)],
    ["Peak", told(m?.peak_dbfs, "dBFS")],
  ];
}

export function SoundFacts({
  voice,
  layer,
  sound,
  info,
}: {
  voice: Voice;
  layer: Layer | undefined;
  sound: VoiceSound | undefined;
  info: Info | undefined;
}) {
  const edit = useProject((p) => p.edit);
  const reference = useActiveReference();
  const analysis = useAnalysis().data;
  const m = sound?.measures;
  const aim = sound?.target ?? null;
  // What the active profile says of this family, where no slice is the target.
  const said = aim ? undefined : reference?.profile?.tones[voice.family];
  const wanted: Record<string, string> = said
    ? {
        Fundamental: rangeText(said.fundamental_hz, "Hz"),
        "Decay, 60 dB": rangeText(said.decay_60db_ms, "ms"),
        Attack: rangeText(said.attack_ms, "ms", 1),
        Brightness: rangeText(said.spectral_centroid_hz, "Hz"),
      }
    : Object.fromEntries(aim ? measured(aim.measures) : []);
  const target =
    voice.family === "kick" && reference && !aim ? (analysis?.kick_fundamental_hz ?? null) : null;
  const off = target !== null && m?.fundamental_hz ? 1200 * Math.log2(m.fundamental_hz / target) : null;
  const level = useParam("voice", "level_db");
  const pan = useParam("voice", "pan");
  return (
    <aside
      className="flex w-[268px] shrink-0 flex-col gap-2 overflow-y-auto border-l border-line bg-base-200 px-4 py-3"
      aria-label="Recipe"
    >
      <h2 className="text-[17px]">Measured</h2>
      <table className="w-full text-[13px]">
        {(aim || said) && (
          <thead>
            <tr className="text-[11px] text-muted">
              <th aria-label="Measure" />
              <th className="text-right font-normal">mine</th>
              <th className="text-right font-normal text-ref">{aim ? "target" : "profile"}</th>
            </tr>
          </thead>
        )}
        <tbody>
          {measured(m).map(([name, value]) => (
            <tr key={name} className="border-b border-line/70">
              <th scope="row" className="py-[2px] text-left font-normal">
                {name}
              </th>
              <td className="num py-[2px] text-right text-[12px]" data-measure={name}>
                {value}
              </td>
              {(aim || said) && (
                <td className="num py-[2px] pl-2 text-right text-[12px] text-ref" data-target={name}>
                  {wanted[name] ?? "–"}
                </td>
              )}
            </tr>
          ))}
        </tbody>
      </table>
      {aim && (
        <div className="flex items-center gap-2" title="The slice that this drum is built towards">
          <div className="grow">
            <SmallWave points={aim.wave.points as [number, number][]} colour="var(--ref)" />
          </div>
          <button
            type="button"
            className="cursor-pointer text-[12px] underline decoration-dotted underline-offset-2"
            onClick={() => edit([{ op: "target.clear", family: voice.family }])}
          >
            no target
          </button>
        </div>
      )}
      {target !== null && (
        <p className="flex justify-between text-[12px]">
          <span className="text-ref">
            reference <span className="num">{num(target)} Hz</span>
          </span>
          <span className={off !== null && Math.abs(off) <= 20 ? "text-success" : "font-semibold text-error"}>
            <span className="num">{num(off, 0, true)} ct</span>{" "}
            {off !== null && Math.abs(off) <= 20 ? "inside" : "outside"}
          </span>
        </p>
      )}
      <section className="border-t border-line pt-1">
        {level && (
          <ParamField
            param={level}
            at={voice.id}
            label="Level in the mix"
            value={voice.level_db}
            reset={-6}
          />
        )}
        {pan && (
          <ParamField percent param={pan} at={voice.id} value={voice.pan} step={5} hint="Left is negative" />
        )}
      </section>
      {layer?.recipe && info && <Recipe voice={voice} layer={layer} info={info} />}
    </aside>
  );
}

const parts = ["body", "noise", "metal", "snap", "drive", "cut"];

/** The numbers of a synthesized layer, part by part. */
function Recipe({ voice, layer, info }: { voice: Voice; layer: Layer; info: Info }) {
  const edit = useProject((p) => p.edit);
  const silent = info.limits.silent_db;
  const at = layerAt(voice.id, layer.id);
  const family = info.recipes[info.families.indexOf(voice.family)];
  const start = (p: Param) => (family ? layerValue({ ...layer, recipe: family }, p.id) : p.default);
  return (
    <>
      {voice.layers.length > 1 && (
        <h2 className="border-t border-line pt-2 text-[15px]">Layer {layer.name}</h2>
      )}
      {parts.map((part) => {
        const rows = info.tables.recipe.filter((p) => p.part === part);
        const level = rows.find((p) => p.id.endsWith("level_db"));
        const isOff = level !== undefined && layerValue(layer, level.id) <= silent;
        return (
          <section key={part} className="border-t border-line pt-1">
            <div className="flex items-center">
              <h3 className="grow text-[13px]">{partNames[part]}</h3>
              {level && (
                <label className="flex items-center gap-1.5 text-[12px] text-muted">
                  {isOff ? "off" : "on"}
                  <input
                    type="checkbox"
                    className="toggle toggle-xs"
                    aria-label={`${partNames[part]} on`}
                    checked={!isOff}
                    onChange={(e) => edit([setNumber(`${at}/${level.id}`, e.target.checked ? -6 : silent)])}
                  />
                </label>
              )}
            </div>
            {!isOff &&
              rows.map((p) => (
                <ParamField
                  key={p.id}
                  param={p}
                  at={at}
                  value={layerValue(layer, p.id)}
                  step={p.scale === "dB" ? 0.5 : 1}
                  reset={start(p)}
                />
              ))}
          </section>
        );
      })}
      <button
        type="button"
        className="press mt-1"
        onClick={() => edit([{ op: "layer.reset", voice: voice.id, layer: layer.id }])}
      >
        Back to the default recipe
      </button>
    </>
  );
}
