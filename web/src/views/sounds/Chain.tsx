// The parts of a recipe and its effects of colour, in the order in which sound goes
// through them. One is chosen and stands at the right; effects are dragged.
import { ChevronRight, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { api, type Info, type Voice } from "../../api/client";
import { effectText } from "../../parts/effects";
import { Menu } from "../../parts/Menu";
import { layerAt, setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { louder } from "./Attempts";
import type { Place } from "./MovedField";
import { kindOf } from "./numbers";
import { type Effect, partColour, partHints, partIDs, partNames, partOn, type Recipe } from "./parts";
import { usePreview } from "./usePreview";

export function Chain({ place, recipe, info }: { place: Place; recipe: Recipe; info: Info }) {
  const edit = useProject((p) => p.edit);
  const { item, set } = useShaping();
  const silent = info.limits.silent_db;
  const at = layerAt(place.voice, place.layer);
  const [dragged, setDragged] = useState<string | null>(null);
  const [before, setBefore] = useState<number | null>(null);
  const drop = () => {
    const from = recipe.effects.findIndex((s) => s.id === dragged);
    if (dragged && before !== null && from >= 0 && before !== from && before !== from + 1)
      edit([{ op: "effect.move", ...place, effect: dragged, to: before > from ? before - 1 : before }]);
    setDragged(null);
    setBefore(null);
  };
  const keys = (s: Effect, i: number) => (e: React.KeyboardEvent) => {
    if (e.altKey && (e.key === "ArrowLeft" || e.key === "ArrowRight")) {
      e.preventDefault();
      edit([{ op: "effect.move", ...place, effect: s.id, to: e.key === "ArrowLeft" ? i - 1 : i + 1 }]);
    } else if (e.key === "Delete") edit([{ op: "effect.remove", ...place, effect: s.id }]);
  };
  return (
    <div className="mb-1 flex flex-wrap items-center gap-1" role="toolbar" aria-label="Parts and effects">
      {partIDs.map((p) => {
        const on = partOn(recipe, p, silent);
        const chosen = item === `part:${p}`;
        return (
          <button
            key={p}
            type="button"
            className={`press h-7 gap-1.5 px-2 text-sm ${chosen ? "bg-row!" : ""} ${on ? "" : "text-muted"}`}
            style={chosen ? { borderColor: partColour[p] } : {}}
            aria-pressed={chosen}
            title={`${partHints[p]}. Double click switches it ${on ? "off" : "on"}`}
            onClick={() => set({ item: `part:${p}` })}
            onDoubleClick={() => edit([setNumber(`${at}/${p}.level_db`, on ? silent : -6)])}
          >
            <span
              className="inline-block size-2.5 rounded-sm border"
              style={{ borderColor: partColour[p], background: on ? partColour[p] : "transparent" }}
            />
            {partNames[p]}
          </button>
        );
      })}
      <span className="px-1 text-xs text-muted">then</span>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: effects are also moved by keys */}
      <div
        className="flex flex-wrap items-center gap-1"
        onDragOver={(e) => dragged && e.preventDefault()}
        onDrop={(e) => {
          e.preventDefault();
          e.nativeEvent.stopPropagation();
          drop();
        }}
      >
        {recipe.effects.map((s, i) => {
          const chosen = item === `effect:${s.id}`;
          return (
            <span key={s.id} className="flex items-center gap-1">
              {i > 0 && <ChevronRight size={12} className="text-muted" aria-hidden="true" />}
              <button
                type="button"
                draggable
                className={`press h-7 cursor-grab px-2 text-sm ${chosen ? "bg-row! border-base-content/60!" : ""} ${s.off ? "text-muted line-through" : ""} ${before === i && dragged ? "border-l-4! border-l-primary!" : ""}`}
                aria-pressed={chosen}
                title="Drag it to another place (Alt and arrow keys); double click switches it off and on"
                onClick={() => set({ item: `effect:${s.id}` })}
                onDoubleClick={() => edit([{ op: "effect.switch", ...place, effect: s.id, off: !s.off }])}
                onKeyDown={keys(s, i)}
                onDragStart={(e) => {
                  e.dataTransfer.effectAllowed = "move";
                  e.dataTransfer.setData("text/plain", s.id);
                  setDragged(s.id);
                }}
                onDragEnd={() => {
                  setDragged(null);
                  setBefore(null);
                }}
                onDragOver={(e) => {
                  if (!dragged) return;
                  e.preventDefault();
                  const r = e.currentTarget.getBoundingClientRect();
                  setBefore(e.clientX < r.left + r.width / 2 ? i : i + 1);
                }}
              >
                {effectText(kindOf(info, s), s)}
              </button>
            </span>
          );
        })}
      </div>
      <Menu
        label="Effect"
        name="Add an effect"
        title="Add an effect"
        face={<Plus size={14} />}
        items={info.effects
          .filter((k) => !k.rows)
          .map((k) => ({
            text: k.label,
            hint: k.hint,
            disabled: recipe.effects.length >= 12,
            onClick: () => {
              edit([{ op: "effect.add", ...place, kind: k.id, to: recipe.effects.length }]);
              const taken = recipe.effects.map((s) => s.id);
              let n = 1;
              while (taken.includes(`${k.id}${n}`)) n++;
              set({ item: `effect:${k.id}${n}` });
            },
          }))}
      />
    </div>
  );
}

/** What is done with the chosen effect: on, off, bypassed at the same loudness. */
export function EffectActions({ place, voice, effect }: { place: Place; voice: Voice; effect: Effect }) {
  const edit = useProject((p) => p.edit);
  const notify = useProject((p) => p.notify);
  const id = useProject((p) => p.state?.id) ?? "";
  const preview = usePreview(voice);
  const [without, setWithout] = useState(false);
  const compare = async () => {
    if (without) {
      preview.back();
      setWithout(false);
      return;
    }
    const off = voice.layers.map((l) =>
      l.id === place.layer && l.recipe
        ? {
            ...l,
            recipe: {
              ...l.recipe,
              effects: l.recipe.effects.map((s) => (s.id === effect.id ? { ...s, off: true } : s)),
            },
          }
        : l,
    );
    try {
      const loud = await api.loudnessWith(id, voice.id, off);
      preview.hear(louder(off, loud.now_lufs - loud.then_lufs), "an effect off, at the same loudness");
      setWithout(true);
    } catch (e) {
      notify((e as Error).message);
    }
  };
  return (
    <span className="flex items-center gap-2">
      <button
        type="button"
        className={`press h-7 px-2 text-xs ${without ? "bg-row!" : ""}`}
        aria-pressed={without}
        title="The sound without this effect, as loud as with it; again brings it back"
        onClick={() => void compare()}
      >
        Off/on
      </button>
      <label className="flex items-center gap-1.5 text-xs text-muted">
        {effect.off ? "off" : "on"}
        <input
          type="checkbox"
          className="toggle toggle-xs"
          aria-label="Effect on"
          checked={!effect.off}
          onChange={(e) =>
            edit([{ op: "effect.switch", ...place, effect: effect.id, off: !e.target.checked }])
          }
        />
      </label>
      <button
        type="button"
        className="press px-2"
        aria-label="Remove this effect"
        onClick={() => edit([{ op: "effect.remove", ...place, effect: effect.id }])}
      >
        <Trash2 size={14} />
      </button>
    </span>
  );
}
