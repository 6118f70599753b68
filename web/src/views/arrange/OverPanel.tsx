// Something that lies on the arrangement: where it is, how long, and what goes on beneath.
import type { Document } from "../../api/client";
import { num } from "../../parts/format";
import { TextBox } from "../../parts/TextBox";
import { useProject } from "../../state/project";
import { go } from "../../state/route";
import { type Facts, placeText } from "../../time/piece";
import { Line } from "./Line";
import type { Laid } from "./layout";
import { useArrange } from "./store";

const kinds: Record<string, string> = {
  bars: "Bars of their own",
  fill: "Fill",
  reverse: "Reverse",
  impact: "Impact",
  riser: "Riser",
  fall: "Fall",
};

export function OverPanel({ doc, facts, list }: { doc: Document; facts: Facts; list: Laid[] }) {
  const edit = useProject((s) => s.edit);
  const chosen = useArrange();
  const of = list.find((l) => l.section.id === chosen.over?.section);
  const dropout = of?.section.dropouts.find((d) => d.id === chosen.over?.id);
  const placed = of?.section.placed.find((o) => o.id === chosen.over?.id);
  const thing = dropout ?? placed;
  if (!of || !thing) return <p className="text-sm text-muted">Nothing is chosen.</p>;
  const where = { section: of.section.id, over: thing.id };
  const at = of.span.from + thing.at;
  const keeps = thing.keeps;
  const setKeeps = (next: string[]) => {
    if (dropout)
      edit([
        {
          op: "dropout.set",
          ...where,
          keeps: next,
          hit: dropout.hit ?? "",
          cuts_tails: dropout.cuts_tails ?? false,
        },
      ]);
    else if (placed)
      edit([{ op: "over.set", ...where, name: placed.name, beneath: placed.over ?? false, keeps: next }]);
  };
  return (
    <>
      <h2 className="text-lg">{dropout ? "Dropout" : (kinds[placed?.kind ?? ""] ?? "Object")}</h2>
      {placed && (
        <Line label="Name">
          <TextBox
            label="Name"
            value={placed.name}
            width={150}
            onCommit={(name) =>
              edit([{ op: "over.set", ...where, name, beneath: placed.over ?? false, keeps }])
            }
          />
        </Line>
      )}
      <Line label="At">
        <span className="num">{placeText(facts, at)}</span>
      </Line>
      <Line label="Lasts">
        <TextBox
          label="Length in beats"
          value={num(thing.length / 960, thing.length % 960 ? 2 : 0)}
          width={58}
          onCommit={(t) => {
            const beats = Number(t.replace(",", "."));
            if (beats > 0)
              edit([{ op: "over.move", ...where, at, length: Math.max(Math.round(beats * 960), 1) }]);
          }}
        />
        <span className="text-xs text-muted">beats</span>
      </Line>
      {dropout && (
        <>
          <Line label="Struck once" hint="One sound at its start">
            <select
              className="press h-7 min-w-0 grow px-1.5 text-xs"
              aria-label="Struck once at its start"
              value={dropout.hit ?? ""}
              onChange={(e) =>
                edit([
                  {
                    op: "dropout.set",
                    ...where,
                    keeps,
                    hit: e.target.value,
                    cuts_tails: dropout.cuts_tails ?? false,
                  },
                ])
              }
            >
              <option value="">nothing</option>
              {doc.kit.voices.map((v) => (
                <option key={v.id} value={v.id}>
                  {v.name}
                </option>
              ))}
            </select>
          </Line>
          <label className="flex items-center gap-2 text-sm">
            <input
              type="checkbox"
              className="size-3.5 shrink-0 accent-neutral"
              checked={dropout.cuts_tails ?? false}
              onChange={(e) =>
                edit([
                  {
                    op: "dropout.set",
                    ...where,
                    keeps,
                    hit: dropout.hit ?? "",
                    cuts_tails: e.target.checked,
                  },
                ])
              }
            />
            what rings is cut
          </label>
        </>
      )}
      {placed && (
        <label className="flex items-center gap-2 text-sm">
          <input
            type="checkbox"
            className="size-3.5 shrink-0 accent-neutral"
            checked={placed.over ?? false}
            onChange={(e) =>
              edit([{ op: "over.set", ...where, name: placed.name, beneath: e.target.checked, keeps }])
            }
          />
          everything goes on beneath it
        </label>
      )}
      {!placed?.over && (
        <fieldset className="text-sm">
          <legend className="text-muted">goes on</legend>
          {doc.kit.voices.map((v) => (
            <label key={v.id} className="flex items-center gap-2">
              <input
                type="checkbox"
                className="size-3.5 shrink-0 accent-neutral"
                checked={keeps.includes(v.id)}
                onChange={(e) =>
                  setKeeps(e.target.checked ? [...keeps, v.id] : keeps.filter((k) => k !== v.id))
                }
              />
              {v.name}
            </label>
          ))}
        </fieldset>
      )}
      <div className="flex flex-wrap gap-1.5 border-t border-line pt-2">
        {placed && (
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            onClick={() => {
              edit([{ op: "variation.use", variation: placed.variation }]);
              void useProject
                .getState()
                .answered()
                .then(() => go(useProject.getState().state?.id ?? null, "groove"));
            }}
          >
            Open in Groove
          </button>
        )}
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="Delete"
          onClick={() => {
            edit([{ op: "over.remove", ...where }]);
            chosen.set({ over: null, panel: "section" });
          }}
        >
          Remove
        </button>
      </div>
    </>
  );
}
