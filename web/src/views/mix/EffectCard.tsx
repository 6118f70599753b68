// An effect of a chain as a picture of what it does, with words under it.
import type { Schemas } from "../../api/client";
import { EffectPicture } from "./pictures";
import type { Effect } from "./rows";

export const cardWidth = 112;

export function EffectCard(p: {
  effect: Effect;
  /** Of its kind, until it is measured. */
  label: string;
  picture: Schemas["Picture"] | undefined;
  colour: string;
  chosen: boolean;
  /** Another effect is dragged to the place before it. */
  mark: boolean;
  onChoose: () => void;
  onSwitch: () => void;
  onDragStart: (e: React.DragEvent) => void;
  onDragEnd: () => void;
  onDragOver: (e: React.DragEvent) => void;
}) {
  const words = p.picture?.words ?? [p.label, ""];
  return (
    <button
      type="button"
      draggable
      data-effect={p.effect.id}
      aria-pressed={p.chosen}
      title={`${words[0]}${words[1] ? `, ${words[1]}` : ""}. Drag it to another place; double click switches it ${p.effect.off ? "on" : "off"}`}
      className={`shrink-0 cursor-grab overflow-hidden rounded-lg border bg-base-100 px-1.5 pt-0.5 text-left ${
        p.chosen ? "border-2 border-base-content" : "border-line hover:border-base-content/50"
      } ${p.mark ? "border-l-4! border-l-primary!" : ""} ${p.effect.off ? "opacity-60" : ""}`}
      style={{ width: cardWidth }}
      onClick={p.onChoose}
      onDoubleClick={p.onSwitch}
      onDragStart={p.onDragStart}
      onDragEnd={p.onDragEnd}
      onDragOver={p.onDragOver}
    >
      <EffectPicture
        picture={p.picture}
        width={cardWidth - 16}
        height={28}
        colour={p.colour}
        off={p.effect.off}
      />
      <span className={`block truncate text-2xs leading-tight ${p.effect.off ? "line-through" : ""}`}>
        {words[0]}
      </span>
      <span className="block h-[14px] truncate text-2xs leading-tight text-muted">
        {p.effect.off ? "off" : words[1]}
      </span>
    </button>
  );
}
