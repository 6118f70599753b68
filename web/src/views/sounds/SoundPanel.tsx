// Right of the charts: facts beside the target's, then the numbers of what is
// being shaped: a part, an effect, the layer or the voice.
import type { Info, Layer, Voice, VoiceSound } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { layerAt, layerValue, setNumber, valueIn } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { EffectActions } from "./Chain";
import { Facts } from "./Facts";
import { LayerPanel } from "./LayerPanel";
import { MovedField, type Place } from "./MovedField";
import { kindOf } from "./numbers";
import { type PartID, partHints, partIDs, partNames, partOn, type Recipe } from "./parts";
import { VoicePanel } from "./VoicePanel";
import { WavePad } from "./WavePad";

export function SoundPanel({
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
  const { item, set } = useShaping();
  const tab = item === "voice" ? "voice" : item === "layer" || !layer?.recipe ? "layer" : "sound";
  return (
    <aside
      className="flex w-[282px] shrink-0 flex-col gap-2 overflow-y-auto border-l border-line bg-base-200 px-4 py-3"
      aria-label="Recipe"
    >
      <Facts voice={voice} sound={sound} />
      <div className="border-t border-line pt-2">
        <Choice
          label="What is shaped"
          value={tab}
          options={[
            ["sound", "Recipe"],
            ["layer", "Layer"],
            ["voice", "Voice"],
          ]}
          disabled={(t) => (t === "sound" && !layer?.recipe) || (t === "layer" && !layer)}
          onChange={(t) => set({ item: t === "sound" ? "part:body" : t })}
        />
      </div>
      {tab === "voice" && info && <VoicePanel voice={voice} info={info} />}
      {tab === "layer" && layer && info && (
        <LayerPanel
          voice={voice}
          layer={layer}
          info={info}
          drawn={sound?.layers.find((d) => d.id === layer.id)}
        />
      )}
      {tab === "sound" && layer?.recipe && info && (
        <RecipePanel
          place={{ voice: voice.id, layer: layer.id }}
          voice={voice}
          layer={layer}
          recipe={layer.recipe}
          info={info}
        />
      )}
    </aside>
  );
}

function RecipePanel({
  place,
  voice,
  layer,
  recipe,
  info,
}: {
  place: Place;
  voice: Voice;
  layer: Layer;
  recipe: Recipe;
  info: Info;
}) {
  const { item } = useShaping();
  const at = layerAt(place.voice, place.layer);
  const effect = recipe.effects.find((s) => item === `effect:${s.id}`);
  if (effect) {
    const kind = kindOf(info, effect);
    return (
      <section aria-label={kind?.label}>
        <div className="flex items-center">
          <h2 className="grow text-lg">{kind?.label}</h2>
          <EffectActions key={effect.id} place={place} voice={voice} effect={effect} />
        </div>
        {kind?.params.map((p) => (
          <MovedField
            key={p.id}
            place={place}
            recipe={recipe}
            param={p}
            at={`effects/${effect.id}/${p.id}`}
            address={`${at}/effects/${effect.id}`}
            value={effect.values[p.id] ?? 0}
          />
        ))}
      </section>
    );
  }
  const part =
    partIDs.find((p) => item === `part:${p}`) ??
    partIDs.find((p) => partOn(recipe, p, info.limits.silent_db)) ??
    "body";
  return (
    <Part key={part} part={part} place={place} voice={voice} layer={layer} recipe={recipe} info={info} />
  );
}

/** Numbers that only mean something with a certain kind of part. */
function shown(part: PartID, id: string, r: Recipe): boolean {
  const of = (name: string) => id === `${part}.${name}`;
  if (part === "body") {
    const driven = r.modulations.some((m) => m.at === "body.end_hz" && r.curves.some((c) => c.id === m.by));
    if (driven && (of("start_hz") || of("fall_ms"))) return false;
    if (r.body.copies === 1 && (of("detune_ct") || of("spread_percent"))) return false;
    if (r.body.second_percent === 0 && (of("second_ratio") || of("second_decay_ms"))) return false;
  }
  if (r.modulations.some((m) => m.at === `${part}.level_db` && r.curves.some((c) => c.id === m.by)))
    if (of("attack_ms") || of("hold_ms") || of("decay_ms")) return false;
  if (part === "noise" && r.noise.bursts === 1)
    if (of("spacing_ms") || of("uneven_percent") || of("burst_step_db") || of("burst_decay_ms")) return false;
  const burst = /^noise\.each\.(\d)\./.exec(id);
  if (burst && (r.noise.bursts === 1 || Number(burst[1]) >= r.noise.bursts)) return false;
  if (of("vary_percent") && r.noise.bursts === 1) return false;
  if (part === "noise" && r.noise.kind !== 5 && of("loop")) return false;
  if (part === "ring" && r.ring.drop_st === 0 && of("drop_ms")) return false;
  return true;
}

function Part({
  part,
  place,
  voice,
  layer,
  recipe,
  info,
}: {
  part: PartID;
  place: Place;
  voice: Voice;
  layer: Layer;
  recipe: Recipe;
  info: Info;
}) {
  const edit = useProject((p) => p.edit);
  const silent = info.limits.silent_db;
  const at = layerAt(place.voice, place.layer);
  const isOn = partOn(recipe, part, silent);
  const family = info.recipes[info.families.indexOf(voice.family)];
  const rows = info.tables.recipe.filter((p) => p.part === part);
  return (
    <section aria-label={partNames[part]}>
      <div className="flex items-center">
        <h2 className="grow text-lg">{partNames[part]}</h2>
        <label className="flex items-center gap-1.5 text-xs text-muted">
          {isOn ? "on" : "off"}
          <input
            type="checkbox"
            className="toggle toggle-xs"
            aria-label={`${partNames[part]} on`}
            checked={isOn}
            onChange={(e) => edit([setNumber(`${at}/${part}.level_db`, e.target.checked ? -6 : silent)])}
          />
        </label>
      </div>
      {!isOn && <p className="text-xs text-muted">{partHints[part]}. Switch it on to hear it.</p>}
      {isOn &&
        rows
          .filter((p) => shown(part, p.id, recipe))
          .map((p) => (
            <MovedField
              key={p.id}
              place={place}
              recipe={recipe}
              param={p}
              at={p.id}
              address={at}
              value={layerValue(layer, p.id)}
              reset={family ? valueIn(family, p.id) : p.default}
            />
          ))}
      {isOn && part === "body" && recipe.body.wave === 4 && (
        <WavePad place={place} cycle={recipe.body.cycle} />
      )}
      {isOn && (part === "snap" || part === "noise") && recipe[part].kind === (part === "snap" ? 3 : 5) && (
        <SampleOf place={place} part={part} blob={recipe[part].blob} />
      )}
      <button
        type="button"
        className="press mt-2"
        onClick={() => edit([{ op: "layer.reset", voice: voice.id, layer: layer.id }])}
      >
        Back to the default recipe
      </button>
    </section>
  );
}

/** Which of the project's recorded sounds a snap or a noise is made of. */
function SampleOf({ place, part, blob }: { place: Place; part: "snap" | "noise"; blob: string }) {
  const edit = useProject((p) => p.edit);
  const voices = useProject((p) => p.state?.document.kit.voices) ?? [];
  const all = voices.flatMap((v) =>
    v.layers.flatMap((l) => (l.recording ? [{ blob: l.recording.blob, name: `${v.name}, ${l.name}` }] : [])),
  );
  if (all.length === 0)
    return (
      <p className="text-xs text-muted">
        No recorded sound is in this kit. Add a one-shot as a layer (muted, if it is not to sound itself),
        then choose it here.
      </p>
    );
  return (
    <label className="flex items-center gap-2 py-1 text-sm">
      <span className="grow">Made of</span>
      <select
        className="press h-7 max-w-[170px] px-1.5 text-sm"
        aria-label="Made of"
        value={blob}
        onChange={(e) => edit([{ op: "sample.set", ...place, part, blob: e.target.value }])}
      >
        <option value="">choose…</option>
        {all.map((s) => (
          <option key={s.name} value={s.blob}>
            {s.name}
          </option>
        ))}
      </select>
    </label>
  );
}
