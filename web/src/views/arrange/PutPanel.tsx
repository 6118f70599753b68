// What can be put at the cursor, or over the chosen stretch: dropouts, fills, bars of a
// variation or of the reference, and objects made of the kit's own sounds.
import { useState } from "react";
import type { Document } from "../../api/client";
import { count, num } from "../../parts/format";
import { useProject } from "../../state/project";
import { useActiveReference, useFills, useProfiles } from "../../state/queries";
import { barAt, type Facts, placeText } from "../../time/piece";
import { grooveOf, variationName } from "./layout";
import { useArrange } from "./store";

export function PutPanel({ doc, facts }: { doc: Document; facts: Facts }) {
  const edit = useProject((s) => s.edit);
  const chosen = useArrange();
  const fills = useFills().data?.fills ?? [];
  const profiles = useProfiles().data?.profiles ?? [];
  const reference = useActiveReference();
  const [genre, setGenre] = useState("");
  const [seed, setSeed] = useState(1);
  const [voice, setVoice] = useState("");
  const [from, setFrom] = useState("");
  const [bar, setBar] = useState(1);
  const { cursor, range } = chosen;
  const bars = facts.bars;
  const here = barAt(facts, cursor);
  const barLength = (bars[here + 1]?.tick ?? 3840) - (bars[here]?.tick ?? 0);
  const at = range?.from ?? Math.round(cursor);
  const length = range ? range.to - range.from : barLength;
  const sound = voice || (doc.kit.voices[0]?.id ?? "");
  const kick = doc.kit.voices.find((v) => v.family === "kick");
  const genres = [...new Set(fills.map((f) => f.genre))];
  const shown = fills.filter((f) => genre === "" || f.genre === genre);
  const button = (text: string, hint: string, run: () => void, off = false) => (
    <button type="button" className="press h-7 px-2 text-xs" title={hint} disabled={off} onClick={run}>
      {text}
    </button>
  );
  const drop = (keeps: string[], hit = "", l = length) =>
    edit([{ op: "piece.dropout", at, length: l, keeps, hit, cuts_tails: false }]);
  return (
    <>
      <p className="text-xs text-muted">
        {range
          ? `Over ${placeText(facts, range.from)} to ${placeText(facts, range.to)}`
          : `At the cursor, ${placeText(facts, cursor)}`}
        . Drag on the bars to choose a stretch.
      </p>
      <section className="border-t border-line pt-1.5">
        <h2 className="mb-1 text-sm">Dropout</h2>
        <div className="flex flex-wrap gap-1.5">
          {button("All", "Everything is silent", () => drop([]))}
          {kick && button("Kick only", "Only the kick goes on", () => drop([kick.id]))}
          {button("All but", `All but ${doc.kit.voices.find((v) => v.id === sound)?.name}`, () =>
            drop([sound]),
          )}
          {button("¼ bar, one hit", "A quarter of a bar with one sound", () =>
            drop([], sound, Math.round(barLength / 4)),
          )}
        </div>
        <VoiceSelect doc={doc} label="Sound of the dropout" value={sound} onChange={setVoice} />
      </section>
      <section className="border-t border-line pt-1.5">
        <h2 className="mb-1 text-sm">Fill</h2>
        <select
          className="press mb-1 h-7 w-full px-1.5 text-xs"
          aria-label="Genre of the fills"
          value={genre}
          onChange={(e) => setGenre(e.target.value)}
        >
          <option value="">all genres ({fills.length})</option>
          {genres.map((g) => (
            <option key={g} value={g}>
              {profiles.find((p) => p.id === g)?.name ?? g}
            </option>
          ))}
        </select>
        <fieldset
          className="max-h-[124px] overflow-y-auto rounded border border-line bg-base-100"
          aria-label="Fills"
        >
          {shown.map((f) => (
            <button
              key={f.id}
              type="button"
              className="flex w-full cursor-pointer px-2 py-0.5 text-left text-xs hover:bg-base-300"
              title="Put it here"
              onClick={() => edit([{ op: "piece.fill", at, fill: f.id }])}
            >
              <span className="grow truncate">{f.name}</span>
              <span className="num text-muted">
                {f.beats < 4 ? count(f.beats, "beat") : count(f.beats / 4, "bar")}
              </span>
            </button>
          ))}
        </fieldset>
        <div className="mt-1 flex flex-wrap items-center gap-1.5">
          {button("Make one of the groove", "Another one each time", () => {
            edit([{ op: "piece.fill", at, made: true, seed, length }]);
            setSeed(seed + 1);
          })}
          <span className="num text-2xs text-muted">seed {seed}</span>
        </div>
        {reference && reference.kind !== "profile" && (
          <div className="mt-1 flex items-center gap-1.5 text-xs">
            {button("From the reference's bar", reference.name, () =>
              edit([{ op: "piece.fill", at, bar, bars: 1 }]),
            )}
            <input
              className="press num h-7 w-[52px] cursor-text px-1 text-center"
              type="number"
              min={1}
              aria-label="Bar of the reference"
              value={bar}
              onChange={(e) => setBar(Math.max(Number(e.target.value), 1))}
            />
          </div>
        )}
      </section>
      <section className="border-t border-line pt-1.5">
        <h2 className="mb-1 text-sm">Object</h2>
        <VoiceSelect doc={doc} label="Sound of the object" value={sound} onChange={setVoice} />
        <div className="mt-1 flex flex-wrap gap-1.5">
          {(
            [
              ["reverse", "Reverse", "The sound in reverse, ending here"],
              ["riser", "Riser", "Strokes that rise and end here"],
              ["impact", "Impact", "A blow an octave lower"],
              ["fall", "Fall", "Strokes that fall from here"],
            ] as const
          ).map(([kind, text, hint]) => (
            <span key={kind}>
              {button(text, hint, () => {
                const into = kind === "reverse" || kind === "riser";
                edit([
                  {
                    op: "piece.object",
                    kind,
                    voice: sound,
                    at: into && range ? range.to : at,
                    length: kind === "impact" ? 0 : length,
                  },
                ]);
              })}
            </span>
          ))}
        </div>
      </section>
      <section className="border-t border-line pt-1.5">
        <h2 className="mb-1 text-sm">Bounce into the project</h2>
        <div className="flex flex-wrap gap-1.5">
          {(
            [
              ["sample", "As a sample", "A voice that plays the stretch whole"],
              ["slices", "As slices", "Voices of its hits"],
              ["backing", "As a backing", "Behind the drums, at its place"],
            ] as const
          ).map(([as, text, hint]) => (
            <span key={as}>
              {button(text, `${hint}: ${range ? "the chosen stretch" : "the section"}`, () => {
                const span = facts.spans.find((s) => s.section === chosen.section);
                const part = range ?? span;
                if (part)
                  void useProject.getState().bouncePiece({ from: part.from, to: part.to, as, name: "" });
              })}
            </span>
          ))}
        </div>
      </section>
      <section className="border-t border-line pt-1.5">
        <h2 className="mb-1 text-sm">Bars of a variation</h2>
        <div className="flex flex-wrap items-center gap-1.5">
          <select
            className="press h-7 w-full px-1.5 text-xs"
            aria-label="Variation whose bars are placed"
            value={from || doc.variation}
            onChange={(e) => setFrom(e.target.value)}
          >
            {doc.variations
              .filter((v) => !v.here)
              .map((v) => (
                <option key={v.id} value={v.id}>
                  {variationName(doc, v.id)}
                </option>
              ))}
          </select>
          {button(
            "Copy into it",
            `The bars of ${variationName(doc, doc.variation)} that play here, copied over the same bars of the chosen variation`,
            () => {
              const span = facts.spans.find((s) => here >= s.first_bar && at < s.to);
              const section = doc.arrangement.sections.find((s) => s.id === span?.section);
              if (!span || !section) return;
              const bars = Math.max(Math.round(length / barLength), 1);
              const own = grooveOf(doc, section.variation)?.bars ?? 1;
              const first = ((section.from_bar ?? 0) + here - span.first_bar) % own;
              edit([
                {
                  op: "bars.copy",
                  from: section.variation,
                  from_bar: first,
                  bars: Math.min(bars, own - first),
                  to: from || doc.variation,
                  to_bar: first,
                },
              ]);
            },
          )}
          {button("Put here", `${num(Math.max(length / barLength, 1), 0)} bars`, () =>
            edit([
              {
                op: "piece.bars",
                at,
                variation: from || doc.variation,
                bars: Math.max(Math.round(length / barLength), 1),
              },
            ]),
          )}
        </div>
      </section>
    </>
  );
}

function VoiceSelect(p: { doc: Document; label: string; value: string; onChange: (v: string) => void }) {
  return (
    <select
      className="press mt-1 h-7 w-full px-1.5 text-xs"
      aria-label={p.label}
      value={p.value}
      onChange={(e) => p.onChange(e.target.value)}
    >
      {p.doc.kit.voices.map((v) => (
        <option key={v.id} value={v.id}>
          {v.name}
        </option>
      ))}
    </select>
  );
}
