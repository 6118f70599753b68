// The parts of a recipe and its steps of colour, in the order in which sound goes
// through them. One is chosen and stands at the right; steps are dragged.
import { ChevronRight, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { api, type Info, type Voice } from "../../api/client";
import { num } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { layerAt, setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { louder } from "./Attempts";
import type { Place } from "./MovedField";
import { kindOf } from "./numbers";
import { partColour, partHints, partIDs, partNames, partOn, type Recipe, type Step } from "./parts";
import { usePreview } from "./usePreview";

const stepHints: Record<string, string> = {
  drive: "Soft, hard, even, folded or diode-like",
  crush: "Fewer bits and another sample rate",
  filter: "Low, high, band or notch, with resonance",
  eq: "Four bands",
  comb: "A string or a tube",
  shift: "Every partial by the same Hz",
  transient: "Attack and sustain by themselves",
  compressor: "Down, and up where asked",
  bands: "Lows, mids and highs apart, down and up",
  reverb: "A room",
  width: "Detuned, later, sides; lows in the middle",
  clip: "Cuts what is beyond a ceiling",
  limit: "Keeps below a ceiling",
};

export function Chain({ place, recipe, info }: { place: Place; recipe: Recipe; info: Info }) {
  const edit = useProject((p) => p.edit);
  const { item, set } = useShaping();
  const silent = info.limits.silent_db;
  const at = layerAt(place.voice, place.layer);
  const [dragged, setDragged] = useState<string | null>(null);
  const [before, setBefore] = useState<number | null>(null);
  const drop = () => {
    const from = recipe.steps.findIndex((s) => s.id === dragged);
    if (dragged && before !== null && from >= 0 && before !== from && before !== from + 1)
      edit([{ op: "step.move", ...place, step: dragged, to: before > from ? before - 1 : before }]);
    setDragged(null);
    setBefore(null);
  };
  const keys = (s: Step, i: number) => (e: React.KeyboardEvent) => {
    if (e.altKey && (e.key === "ArrowLeft" || e.key === "ArrowRight")) {
      e.preventDefault();
      edit([{ op: "step.move", ...place, step: s.id, to: e.key === "ArrowLeft" ? i - 1 : i + 1 }]);
    } else if (e.key === "Delete") edit([{ op: "step.remove", ...place, step: s.id }]);
  };
  return (
    <div className="mb-1 flex flex-wrap items-center gap-1" role="toolbar" aria-label="Parts and steps">
      {partIDs.map((p) => {
        const on = partOn(recipe, p, silent);
        const chosen = item === `part:${p}`;
        return (
          <button
            key={p}
            type="button"
            className={`press h-7 gap-1.5 px-2 text-[13px] ${chosen ? "bg-row!" : ""} ${on ? "" : "text-muted"}`}
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
      <span className="px-1 text-[12px] text-muted">then</span>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: steps are also moved by keys */}
      <div
        className="flex flex-wrap items-center gap-1"
        onDragOver={(e) => dragged && e.preventDefault()}
        onDrop={(e) => {
          e.preventDefault();
          e.nativeEvent.stopPropagation();
          drop();
        }}
      >
        {recipe.steps.map((s, i) => {
          const chosen = item === `step:${s.id}`;
          return (
            <span key={s.id} className="flex items-center gap-1">
              {i > 0 && <ChevronRight size={12} className="text-muted" aria-hidden="true" />}
              <button
                type="button"
                draggable
                className={`press h-7 cursor-grab px-2 text-[13px] ${chosen ? "bg-row! border-base-content/60!" : ""} ${s.off ? "text-muted line-through" : ""} ${before === i && dragged ? "border-l-4! border-l-primary!" : ""}`}
                aria-pressed={chosen}
                title="Drag it to another place (Alt and arrow keys); double click switches it off and on"
                onClick={() => set({ item: `step:${s.id}` })}
                onDoubleClick={() => edit([{ op: "step.switch", ...place, step: s.id, off: !s.off }])}
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
                {stepText(s, info)}
              </button>
            </span>
          );
        })}
      </div>
      <Menu
        label="Step"
        name="Add a step"
        title="Add a step of colour"
        face={<Plus size={14} />}
        items={info.steps
          .filter((k) => !k.rows)
          .map((k) => ({
            text: k.label,
            hint: stepHints[k.id] ?? "",
            disabled: recipe.steps.length >= 12,
            onClick: () => {
              edit([{ op: "step.add", ...place, kind: k.id, to: recipe.steps.length }]);
              const taken = recipe.steps.map((s) => s.id);
              let n = 1;
              while (taken.includes(`${k.id}${n}`)) n++;
              set({ item: `step:${k.id}${n}` });
            },
          }))}
      />
    </div>
  );
}

/** A step in a few words: what it is and its telling number. */
export function stepText(s: Step, info: Info): string {
  const kind = kindOf(info, s);
  const v = (id: string) => s.values[id] ?? 0;
  const name = (id: string) => kind?.params.find((p) => p.id === id)?.names?.[v(id)] ?? "";
  switch (s.kind) {
    case "drive":
      return `${name("curve")} drive`;
    case "filter":
      return `${name("shape")} ${num(v("corner_hz"), 0)}`;
    case "crush":
      return `${num(v("bits"), 0)} bits`;
    case "shift":
      return `shift ${num(v("shift_hz"), 0, true)} Hz`;
    case "clip":
      return `${name("curve")} clip`;
    case "reverb":
      return `room ${num(v("decay_ms"), 0)} ms`;
    case "compressor":
      return `compress ${num(v("ratio"), 0)}:1`;
    default:
      return kind?.label.toLowerCase() ?? s.kind;
  }
}

/** What is done with the chosen step: on, off, judged off and on at the same loudness. */
export function StepActions({ place, voice, step }: { place: Place; voice: Voice; step: Step }) {
  const edit = useProject((p) => p.edit);
  const tell = useProject((p) => p.tell);
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
              steps: l.recipe.steps.map((s) => (s.id === step.id ? { ...s, off: true } : s)),
            },
          }
        : l,
    );
    try {
      const loud = await api.loudnessWith(id, voice.id, off);
      preview.hear(louder(off, loud.now_lufs - loud.then_lufs), "a step off, at the same loudness");
      setWithout(true);
    } catch (e) {
      tell((e as Error).message);
    }
  };
  return (
    <span className="flex items-center gap-2">
      <button
        type="button"
        className={`press h-7 px-2 text-[12px] ${without ? "bg-row!" : ""}`}
        aria-pressed={without}
        title="The sound without this step, as loud as with it; again brings it back"
        onClick={() => void compare()}
      >
        Off/on
      </button>
      <label className="flex items-center gap-1.5 text-[12px] text-muted">
        {step.off ? "off" : "on"}
        <input
          type="checkbox"
          className="toggle toggle-xs"
          aria-label="Step on"
          checked={!step.off}
          onChange={(e) => edit([{ op: "step.switch", ...place, step: step.id, off: !e.target.checked }])}
        />
      </label>
      <button
        type="button"
        className="press px-2"
        aria-label="Remove this step"
        onClick={() => edit([{ op: "step.remove", ...place, step: step.id }])}
      >
        <Trash2 size={14} />
      </button>
    </span>
  );
}
