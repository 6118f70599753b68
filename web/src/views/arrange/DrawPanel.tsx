// Numbers that may be drawn over the piece: found by words, opened as lanes; and the
// points of the chosen section as numbers.
import { useMemo, useState } from "react";
import type { Document, Schemas } from "../../api/client";
import { num } from "../../parts/format";
import { TextBox } from "../../parts/TextBox";
import { useProject } from "../../state/project";
import { useDrawable } from "../../state/queries";
import { withPoint } from "./DrawnLane";
import type { Laid } from "./layout";
import { useArrange } from "./store";

const none: Schemas["DrawableNumber"][] = [];

export function DrawPanel({ doc, of }: { doc: Document; of: Laid }) {
  const drawable = useDrawable().data?.drawable ?? none;
  const edit = useProject((s) => s.edit);
  const chosen = useArrange();
  const [words, setWords] = useState("");
  const { section } = of;
  const found = useMemo(() => {
    const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
    return drawable
      .filter((d) => asked.every((w) => `${d.of} ${d.param.label}`.toLowerCase().includes(w)))
      .slice(0, 60);
  }, [drawable, words]);
  const begin = (d: Schemas["DrawableNumber"]) => {
    const points = [
      { bar: 0, value: d.value },
      { bar: section.bars, value: d.value },
    ];
    if (!section.automation.some((m) => m.at === d.at))
      edit([{ op: "piece.automate", section: section.id, at: d.at, points }]);
    chosen.set({ lanes: [...chosen.lanes.filter((a) => a !== d.at), d.at] });
  };
  return (
    <>
      <input
        type="search"
        className="press h-8 w-full shrink-0 cursor-text px-2"
        aria-label="Search numbers to draw"
        placeholder="kick low cut, hat decay, tempo…"
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      <fieldset
        className="max-h-[220px] shrink-0 overflow-y-auto rounded border border-line bg-base-100"
        aria-label="Numbers to draw"
      >
        {found.map((d) => (
          <button
            key={d.at}
            type="button"
            className="block w-full cursor-pointer truncate px-2 py-0.5 text-left text-xs hover:bg-base-300"
            title={`Draw it over ${section.name}: now ${num(d.value)} ${d.param.unit}`}
            onClick={() => begin(d)}
          >
            {d.of}: {d.param.label.toLowerCase()}
          </button>
        ))}
        {found.length === 0 && <p className="px-2 py-1 text-xs text-muted">No number is called that.</p>}
      </fieldset>
      <p className="text-xs text-muted">
        A lane opens under its row: click to add a point, drag to move it, double click to take it away; with
        Shift free of the grid.
      </p>
      {section.automation.map((m) => {
        const d = drawable.find((n) => n.at === m.at);
        if (!d) return null;
        return (
          <div key={m.at} className="border-t border-line pt-1">
            <div className="flex text-xs">
              <span className="grow truncate font-semibold">
                {d.of}: {d.param.label.toLowerCase()}
              </span>
              <button
                type="button"
                className="cursor-pointer text-2xs text-muted underline decoration-dotted"
                onClick={() => edit([{ op: "piece.automate", section: section.id, at: m.at, points: [] }])}
              >
                remove here
              </button>
            </div>
            {m.points.map((q) => (
              <div key={q.bar} className="flex items-center gap-1.5 text-xs">
                <span className="w-[52px] text-muted">bar {num(q.bar + 1, q.bar % 1 ? 2 : 0)}</span>
                <TextBox
                  label={`${d.param.label} at bar ${num(q.bar + 1, 2)}`}
                  value={num(q.value, 2)}
                  width={74}
                  onCommit={(t) => {
                    const value = Number(t.replace(",", ".").replace("−", "-"));
                    if (Number.isFinite(value))
                      edit([
                        {
                          op: "piece.automate",
                          section: section.id,
                          at: m.at,
                          points: withPoint(m.points, { bar: q.bar, value }),
                        },
                      ]);
                  }}
                />
                <span className="grow text-muted">{d.param.unit}</span>
              </div>
            ))}
          </div>
        );
      })}
      {doc.arrangement.sections.length > 1 && section.automation.length > 0 && (
        <p className="text-xs text-muted">What is drawn belongs to {section.name} and goes where it goes.</p>
      )}
    </>
  );
}
