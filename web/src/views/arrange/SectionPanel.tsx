// The chosen section: its name, variation, length, meter and tempo, and its bars.
import type { Document } from "../../api/client";
import { meters } from "../../api/facts.gen";
import { num } from "../../parts/format";
import { TextBox } from "../../parts/TextBox";
import { useProject } from "../../state/project";
import { go } from "../../state/route";
import { barAt, type Facts } from "../../time/piece";
import { Line } from "./Line";
import { type Laid, starts, variationName } from "./layout";
import { playFrom } from "./playFrom";
import { useArrange } from "./store";

export function SectionPanel({ doc, facts, of }: { doc: Document; facts: Facts; of: Laid }) {
  const edit = useProject((s) => s.edit);
  const chosen = useArrange();
  const { section, span } = of;
  const set = (fields: object) => edit([{ op: "section.set", section: section.id, ...fields } as never]);
  const number = (label: string, value: number, unit: string, change: (v: number) => void, empty = "") => (
    <>
      <TextBox
        label={label}
        value={value ? num(value, value % 1 ? 2 : 0) : ""}
        placeholder={empty}
        width={62}
        onCommit={(t) => {
          const v = t.trim() === "" ? 0 : Number(t.replace(",", ".").replace("−", "-"));
          if (Number.isFinite(v)) change(v);
          else useProject.getState().notify(`${label}: “${t}” is not a number. Nothing was changed.`);
        }}
      />
      <span className="text-xs text-muted">{unit}</span>
    </>
  );
  const bar = barAt(facts, chosen.cursor) - span.first_bar;
  const inside = bar >= 0 && bar < section.bars;
  const at = doc.arrangement.sections.indexOf(section);
  return (
    <>
      <div className="flex items-center gap-2">
        <TextBox
          label="Name of the section"
          value={section.name}
          width={150}
          className="font-display text-lg! font-semibold"
          onCommit={(name) => name !== "" && set({ name })}
        />
        <select
          className="press h-7 w-[74px] px-1 text-xs"
          aria-label="Names that sections often have"
          value=""
          onChange={(e) => e.target.value && set({ name: e.target.value })}
        >
          <option value="">name…</option>
          {starts.map((s) => (
            <option key={s}>{s}</option>
          ))}
        </select>
      </div>
      <Line label="Plays">
        <select
          className="press h-7 min-w-0 grow px-1.5 text-xs"
          aria-label="Variation"
          value={section.variation}
          onChange={(e) => set({ variation: e.target.value })}
        >
          {doc.variations
            .filter((v) => !v.here || v.id === section.variation)
            .map((v) => (
              <option key={v.id} value={v.id}>
                {variationName(doc, v.id)}
              </option>
            ))}
        </select>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="Change the variation, for all that play it"
          onClick={() => {
            if (section.variation !== doc.variation)
              edit([{ op: "variation.use", variation: section.variation }]);
            go(useProject.getState().state?.id ?? null, "groove");
          }}
        >
          Open
        </button>
      </Line>
      <Line label="Length">
        {number("Bars", section.bars, section.bars === 1 ? "bar" : "bars", (bars) => set({ bars }))}
      </Line>
      <Line label="From its bar" hint="How far into the variation it begins">
        {number("First bar of the variation", (section.from_bar ?? 0) + 1, "", (v) =>
          set({ from_bar: v - 1 }),
        )}
      </Line>
      <Line label="Meter">
        <select
          className="press h-7 px-1.5 text-xs"
          aria-label="Meter of the section"
          value={section.meter ? `${section.meter.beats}/${section.meter.unit}` : ""}
          onChange={(e) => set({ meter: e.target.value })}
        >
          <option value="">as the variation</option>
          {[
            ...new Set([
              ...meters,
              ...(section.meter ? [`${section.meter.beats}/${section.meter.unit}`] : []),
            ]),
          ].map((m) => (
            <option key={m}>{m}</option>
          ))}
        </select>
      </Line>
      <Line label="Tempo" hint="Empty goes on with the tempo before">
        {number(
          "Tempo of the section",
          section.tempo_bpm ?? 0,
          "BPM",
          (tempo_bpm) => set({ tempo_bpm }),
          num(span.from_bpm),
        )}
      </Line>
      <Line label="Runs to" hint="A ramp over the whole section, straight in beats">
        {number(
          "Tempo that it runs to",
          section.tempo_to_bpm ?? 0,
          "BPM",
          (tempo_to_bpm) => set({ tempo_to_bpm }),
          "–",
        )}
      </Line>
      <label className="flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="size-3.5 shrink-0 accent-neutral"
          checked={section.lanes_go_on ?? false}
          onChange={(e) => set({ lanes_go_on: e.target.checked })}
        />
        lanes of other lengths go on from before
      </label>
      <label className="flex items-center gap-2 text-sm">
        <input
          type="checkbox"
          className="size-3.5 shrink-0 accent-neutral"
          checked={section.cuts_tails ?? false}
          onChange={(e) => set({ cuts_tails: e.target.checked })}
        />
        what rings is cut at its end
      </label>
      <div className="flex flex-wrap gap-1.5 border-t border-line pt-2">
        <button type="button" className="press h-7 px-2 text-xs" onClick={() => playFrom(span.from)}>
          Play it
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="Ctrl D"
          onClick={() => edit([{ op: "section.repeat", section: section.id }])}
        >
          Repeat
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="A copy that plays a variation of its own, to be changed"
          onClick={() => edit([{ op: "section.repeat", section: section.id, own: true }])}
        >
          Duplicate to change
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          disabled={!inside || bar === 0}
          title="At the cursor (S)"
          onClick={() => edit([{ op: "section.split", section: section.id, bar }])}
        >
          Split
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          aria-label="Move the section earlier"
          disabled={at === 0}
          title="Alt ←"
          onClick={() => edit([{ op: "section.move", section: section.id, to: at - 1 }])}
        >
          ←
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          aria-label="Move the section later"
          disabled={at === doc.arrangement.sections.length - 1}
          title="Alt →"
          onClick={() => edit([{ op: "section.move", section: section.id, to: at + 1 }])}
        >
          →
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          disabled={doc.arrangement.sections.length === 1}
          onClick={() => edit([{ op: "section.remove", section: section.id }])}
        >
          Remove
        </button>
      </div>
      {inside && (
        <div className="border-t border-line pt-2">
          <h2 className="mb-1 text-sm">
            Bar {bar + span.first_bar + 1}
            <span className="font-normal text-muted">, at the cursor</span>
          </h2>
          <p className="mb-1 text-xs text-muted">Open it in Groove and change it</p>
          <div className="flex flex-wrap gap-1.5">
            <button type="button" className="press h-7 px-2 text-xs" onClick={() => open("here")}>
              for here only
            </button>
            <button type="button" className="press h-7 px-2 text-xs" onClick={() => open("all")}>
              for all like it
            </button>
            <button type="button" className="press h-7 px-2 text-xs" onClick={() => open("new")}>
              as a new variation
            </button>
          </div>
        </div>
      )}
    </>
  );

  function open(how: "here" | "all" | "new") {
    if (how === "all") {
      if (section.variation !== doc.variation) edit([{ op: "variation.use", variation: section.variation }]);
    } else edit([{ op: "bar.open", section: section.id, bar, variation: how === "new" }]);
    void useProject
      .getState()
      .answered()
      .then(() => go(useProject.getState().state?.id ?? null, "groove"));
  }
}
