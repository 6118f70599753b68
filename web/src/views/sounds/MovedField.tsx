// A number of a recipe, and what moves it: a curve, velocity, the note or chance.
import { Spline, X } from "lucide-react";
import type { Param } from "../../api/client";
import { num } from "../../parts/format";
import { Menu, type MenuItem } from "../../parts/Menu";
import { NumberField } from "../../parts/NumberField";
import { ParamField } from "../../parts/ParamField";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { drivenBy, type Move, type Recipe } from "./parts";

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
  ["velocity", "Velocity moves it", "Harder hits more"],
  ["note", "The note moves it", "Higher notes more"],
  ["chance", "Chance moves it", "A little other on every hit"],
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
  const movable = p.scale !== "steps" && p.scale !== "switch";
  const field = (
    <ParamField
      param={p}
      at={address}
      value={value}
      step={p.scale === "dB" ? 0.5 : 1}
      {...(reset !== undefined ? { reset } : {})}
    />
  );
  if (!movable) return field;
  const driven = drivenBy(recipe, at);
  const moves = recipe.moves.filter((m) => m.at === at);
  const set = (move: Move, gesture = "") => edit([{ op: "move.set", ...place, move }], gesture);
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
    if (!moves.some((m) => m.by === by))
      items.push({ text, hint, onClick: () => set({ by, at, from: -reach(p), to: reach(p) }) });
  return (
    <div>
      <div className="flex items-start gap-0.5">
        <div className="min-w-0 grow">
          {driven ? <Driven recipe={recipe} move={driven} param={p} onSet={set} /> : field}
        </div>
        {items.length > 0 && (
          <Menu
            label={`What moves ${p.label}`}
            name={`What moves ${p.label}`}
            title="Let a curve, velocity, the note or chance move it"
            right
            bare
            face={<Spline size={13} className={moves.length > 0 ? "" : "opacity-45"} />}
            items={items}
          />
        )}
      </div>
      {moves
        .filter((m) => m !== driven)
        .map((m) => (
          <StrokeMove
            key={m.by}
            move={m}
            param={p}
            onSet={set}
            onRemove={() => edit([{ op: "move.remove", ...place, by: m.by, at }])}
          />
        ))}
    </div>
  );
}

/** A number that follows a curve: the ends between which it goes. */
function Driven({
  recipe,
  move,
  param: p,
  onSet,
}: {
  recipe: Recipe;
  move: Move;
  param: Param;
  onSet: (m: Move, gesture?: string) => void;
}) {
  const set = useShaping((s) => s.set);
  const curve = recipe.curves.find((c) => c.id === move.by);
  return (
    <div className="py-0.5">
      <div className="flex items-baseline gap-2 text-[13px]">
        <span className="grow truncate">{p.label}</span>
        <button
          type="button"
          className="cursor-pointer truncate text-[12px] text-warning underline decoration-dotted underline-offset-2"
          onClick={() => set({ item: `curve:${move.by}` })}
        >
          {curve?.name}
        </button>
      </div>
      <div className="pl-2">
        {(["from", "to"] as const).map((end) => (
          <NumberField
            key={end}
            label={end === "from" ? "at 1" : "at 0"}
            value={move[end]}
            unit={p.unit}
            min={p.min}
            max={p.max}
            log={p.scale === "log"}
            compact
            onChange={(v, gesture) => onSet({ ...move, [end]: v }, gesture)}
          />
        ))}
      </div>
    </div>
  );
}

function StrokeMove({
  move,
  param: p,
  onSet,
  onRemove,
}: {
  move: Move;
  param: Param;
  onSet: (m: Move, gesture?: string) => void;
  onRemove: () => void;
}) {
  const unit = p.scale === "log" ? "st" : p.unit;
  const most = p.scale === "log" ? 48 : p.max - p.min;
  const ends = { velocity: ["soft", "hard"], note: ["low", "high"], chance: ["from", "to"] }[move.by] ?? [
    "",
    "",
  ];
  return (
    <div className="flex items-start gap-1 pl-2">
      <span
        className="w-[46px] shrink-0 pt-1 text-[11px] text-warning"
        title={`Moved by ${move.by}: ${num(move.from)} to ${num(move.to)} ${unit}`}
      >
        {move.by}
      </span>
      {(["from", "to"] as const).map((end, i) => (
        <div key={end} className="min-w-0 grow">
          <NumberField
            label={ends[i] ?? ""}
            value={move[end]}
            unit={unit}
            min={-most}
            max={most}
            step={0.5}
            compact
            onChange={(v, gesture) => onSet({ ...move, [end]: v }, gesture)}
          />
        </div>
      ))}
      <button
        type="button"
        className="cursor-pointer pt-1.5"
        aria-label={`No longer by ${move.by}`}
        onClick={onRemove}
      >
        <X size={12} />
      </button>
    </div>
  );
}
