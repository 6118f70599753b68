// A number of a recipe, and what moves it: a curve, velocity, the note or chance.
import { Spline, X } from "lucide-react";
import type { Param } from "../../api/client";
import { num } from "../../parts/format";
import { Menu, type MenuItem } from "../../parts/Menu";
import { NumberField } from "../../parts/NumberField";
import { ParamField } from "../../parts/ParamField";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { drivenBy, type Modulation, type Recipe } from "./parts";

/** Where a recipe stands in the project. */
export interface Place {
  voice: string;
  layer: string;
}

/** How far a stroke moves a number at first, in its own scale. */
const reach = (p: Param): number => (p.scale === "log" ? 12 : p.scale === "dB" ? 6 : (p.max - p.min) / 10);

/** Between what a number goes at first where it follows a curve: a level to silence,
 * anything else from a fifth of its range above to where it is. */
const ends = (p: Param, value: number): { from: number; to: number } => {
  if (p.id.endsWith("level_db")) return { from: value, to: p.min };
  if (p.scale === "log") return { from: Math.min(value * (p.max / p.min) ** 0.2, p.max), to: value };
  return { from: Math.min(value + (p.max - p.min) / 5, p.max), to: value };
};

const sources: [string, string, string][] = [
  ["velocity", "Velocity modulation", "Harder hits more"],
  ["note", "Note modulation", "Higher notes more"],
  ["chance", "Random modulation", "A little other on every hit"],
];

export function MovedField({
  place,
  recipe,
  param: p,
  at,
  address,
  value,
  reset,
}: {
  place: Place;
  recipe: Recipe;
  param: Param;
  /** The number within the recipe. */
  at: string;
  /** The address of what has the number. */
  address: string;
  value: number;
  reset?: number;
}) {
  const edit = useProject((s) => s.edit);
  const modulatable = p.scale !== "discrete" && p.scale !== "switch";
  const field = (
    <ParamField
      param={p}
      at={address}
      value={value}
      step={p.scale === "dB" ? 0.5 : 1}
      {...(reset !== undefined ? { reset } : {})}
    />
  );
  if (!modulatable) return field;
  const driven = drivenBy(recipe, at);
  const modulations = recipe.modulations.filter((m) => m.at === at);
  const set = (modulation: Modulation, gesture = "") =>
    edit([{ op: "modulation.set", ...place, modulation }], gesture);
  const items: MenuItem[] = [];
  if (!driven) {
    items.push({
      text: "Draw it as a curve",
      hint: "A line over time, to be bent",
      onClick: () => edit([{ op: "curve.draw", ...place, at }]),
    });
    for (const c of recipe.curves)
      items.push({
        text: `Follow ${c.name}`,
        hint: "One line may drive several numbers",
        onClick: () => set({ by: c.id, at, ...ends(p, value) }),
      });
  }
  for (const [by, text, hint] of sources)
    if (!modulations.some((m) => m.by === by))
      items.push({ text, hint, onClick: () => set({ by, at, from: -reach(p), to: reach(p) }) });
  return (
    <div>
      <div className="flex items-start gap-0.5">
        <div className="min-w-0 grow">
          {driven ? <Driven recipe={recipe} modulation={driven} param={p} onSet={set} /> : field}
        </div>
        {items.length > 0 && (
          <Menu
            label={`Modulation of ${p.label}`}
            name={`Modulation of ${p.label}`}
            title="Modulate by curve, velocity, note or chance"
            right
            bare
            face={<Spline size={13} className={modulations.length > 0 ? "" : "opacity-45"} />}
            items={items}
          />
        )}
      </div>
      {modulations
        .filter((m) => m !== driven)
        .map((m) => (
          <StrokeMove
            key={m.by}
            modulation={m}
            param={p}
            onSet={set}
            onRemove={() => edit([{ op: "modulation.remove", ...place, by: m.by, at }])}
          />
        ))}
    </div>
  );
}

/** A number that follows a curve: the ends between which it goes. */
function Driven({
  recipe,
  modulation,
  param: p,
  onSet,
}: {
  recipe: Recipe;
  modulation: Modulation;
  param: Param;
  onSet: (m: Modulation, gesture?: string) => void;
}) {
  const set = useShaping((s) => s.set);
  const curve = recipe.curves.find((c) => c.id === modulation.by);
  return (
    <div className="py-0.5">
      <div className="flex items-baseline gap-2 text-sm">
        <span className="grow truncate">{p.label}</span>
        <button
          type="button"
          className="cursor-pointer truncate text-xs text-warning underline decoration-dotted underline-offset-2"
          onClick={() => set({ item: `curve:${modulation.by}` })}
        >
          {curve?.name}
        </button>
      </div>
      <div className="pl-2">
        {(["from", "to"] as const).map((end) => (
          <NumberField
            key={end}
            label={end === "from" ? "at 1" : "at 0"}
            value={modulation[end]}
            unit={p.unit}
            min={p.min}
            max={p.max}
            log={p.scale === "log"}
            compact
            onChange={(v, gesture) => onSet({ ...modulation, [end]: v }, gesture)}
          />
        ))}
      </div>
    </div>
  );
}

function StrokeMove({
  modulation,
  param: p,
  onSet,
  onRemove,
}: {
  modulation: Modulation;
  param: Param;
  onSet: (m: Modulation, gesture?: string) => void;
  onRemove: () => void;
}) {
  const unit = p.scale === "log" ? "st" : p.unit;
  const most = p.scale === "log" ? 48 : p.max - p.min;
  const ends = { velocity: ["soft", "hard"], note: ["low", "high"], chance: ["from", "to"] }[
    modulation.by
  ] ?? ["", ""];
  return (
    <div className="flex items-start gap-1 pl-2">
      <span
        className="w-[46px] shrink-0 pt-1 text-2xs text-warning"
        title={`Modulated by ${modulation.by}: ${num(modulation.from)} to ${num(modulation.to)} ${unit}`}
      >
        {modulation.by}
      </span>
      {(["from", "to"] as const).map((end, i) => (
        <div key={end} className="min-w-0 grow">
          <NumberField
            label={ends[i] ?? ""}
            value={modulation[end]}
            unit={unit}
            min={-most}
            max={most}
            step={0.5}
            compact
            onChange={(v, gesture) => onSet({ ...modulation, [end]: v }, gesture)}
          />
        </div>
      ))}
      <button
        type="button"
        className="cursor-pointer pt-1.5"
        aria-label={`Remove ${modulation.by}`}
        onClick={onRemove}
      >
        <X size={12} />
      </button>
    </div>
  );
}
