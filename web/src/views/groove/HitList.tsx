// The hits of a lane as a list, for screen readers and the keyboard.
import { memo } from "react";
import { num, position } from "../../parts/format";
import { headY } from "../../parts/sticks";
import { useSettled } from "../../state/queries";
import { isDropped, isRoll, type Placed, rowHeight, strokesOf } from "./layout";

export const inWords = (p: Placed, beats: number) =>
  [
    `${position(p.hit.tick, beats)}  ${num(p.offset, 1, true)} ms  velocity ${p.hit.velocity}`,
    isRoll(p.hit) ? `roll of ${strokesOf(p.hit).length - (p.hit.flam?.strokes ?? 0)}` : "",
    (p.hit.flam?.strokes ?? 0) > 0 ? "flam" : "",
    p.hit.semitones !== 0 ? `${num(p.hit.semitones, 1, true)} st` : "",
    isDropped(p.hit) ? "dropped" : (p.hit.of ?? 0) > 0 ? `${p.hit.times} of ${p.hit.of} times` : "",
    p.hit.sound ? `sound of ${p.hit.sound}` : "",
    p.hit.reverse ? "reversed" : "",
  ]
    .filter(Boolean)
    .join("  ");

/** The most hits that are listed; of more the row reports only their number. */
const most = 64;

interface Listed {
  shown: Placed[];
  beats: number;
  selected: Set<string>;
  name: string;
}

/**
 * The hits on show as a list, for who cannot see the canvas; each stands where its head is. It
 * follows once they rest, so that a drag and the wheel are not held up by it.
 */
export function HitList(p: Listed) {
  return <List {...p} shown={useSettled(p.shown, 150)} />;
}

const List = memo(function List({ shown, beats, selected, name }: Listed) {
  return (
    <ul
      // Items of one cell with margins, not placed absolutely: a browser keeps layers for those.
      className="pointer-events-none absolute inset-0 grid grid-cols-[0] grid-rows-[0] opacity-0"
      aria-label={`Hits of ${name} on show`}
    >
      {shown.slice(0, most).map((s) => (
        <HitItem
          key={s.hit.id}
          id={s.hit.id}
          x={Math.round(s.x * 10) / 10}
          y={headY(s.hit.velocity, rowHeight)}
          text={inWords(s, beats)}
          selected={selected.has(s.hit.id)}
        />
      ))}
    </ul>
  );
});

const HitItem = memo(function HitItem(p: {
  id: string;
  x: number;
  y: number;
  text: string;
  selected: boolean;
}) {
  return (
    <li
      data-hit={p.id}
      className="[grid-area:1/1] h-[10px] w-[10px] whitespace-nowrap"
      style={{ marginLeft: p.x - 5, marginTop: p.y - 5 }}
    >
      {p.text}
      {p.selected && ", selected"}
    </li>
  );
});
