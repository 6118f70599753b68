// Proposals for a variation, drawn by a seed: each says what it changes and may be taken
// alone.
import { useState } from "react";
import { api, type Schemas, type State } from "../../api/client";
import { NumberField } from "../../parts/NumberField";
import { useProject } from "../../state/project";
import { useSelection } from "../../state/selection";

const kinds: [string, string, string][] = [
  ["thin", "Thin out", "Soft hits between the beats go first"],
  ["fill", "Fill", "Strokes towards the end of a bar, from a step on"],
  ["drop", "Mute a bar's kick", "Or what the selected row plays in it; nothing is lost"],
  ["ghosts", "Ghosts", "Soft strokes around the loud ones"],
  ["move", "Move some", "Hits between the beats, by a step"],
  ["accents", "Accents", "Some louder, some softer"],
];

export function Ideas({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const notify = useProject((p) => p.notify);
  const voice = useSelection((s) => s.voice);
  const [kind, setKind] = useState("thin");
  const [amount, setAmount] = useState(40);
  const [bar, setBar] = useState(0);
  const [from, setFrom] = useState(8);
  const [one, setOne] = useState(false);
  const [seed, setSeed] = useState(1);
  const [list, setList] = useState<(Schemas["Proposed"] & { on: boolean })[] | null>(null);
  const name = state.document.kit.voices.find((v) => v.id === voice)?.name ?? "";
  const ask = async (n: number) => {
    setSeed(n);
    try {
      const found = await api.propose(state.id, {
        kind,
        amount_percent: amount,
        bar,
        from,
        voice: one ? voice : "",
        seed: n,
      });
      setList(found.proposed.map((p) => ({ ...p, on: true })));
    } catch (e) {
      notify((e as Error).message);
    }
  };
  const taken = list?.filter((p) => p.on) ?? [];
  return (
    <section className="flex gap-4" aria-label="Ideas for a variation">
      <div className="flex w-[300px] shrink-0 flex-col gap-2">
        <div className="flex flex-wrap gap-1">
          {kinds.map(([id, text, hint]) => (
            <button
              key={id}
              type="button"
              className={`press h-7 px-2 text-xs ${kind === id ? "bg-row!" : ""}`}
              aria-pressed={kind === id}
              title={hint}
              onClick={() => {
                setKind(id);
                setList(null);
              }}
            >
              {text}
            </button>
          ))}
        </div>
        {kind !== "drop" && (
          <NumberField
            label="How much"
            value={amount}
            unit="%"
            min={0}
            max={100}
            digits={0}
            step={5}
            onChange={setAmount}
          />
        )}
        {(kind === "fill" || kind === "drop") && (
          <NumberField
            label="Bar (0 is the last)"
            value={bar}
            unit=""
            min={0}
            max={state.document.groove.bars}
            digits={0}
            step={1}
            onChange={(v) => setBar(Math.round(v))}
          />
        )}
        {kind === "fill" && (
          <NumberField
            label="From step of the bar"
            value={from}
            unit=""
            min={0}
            max={31}
            digits={0}
            step={1}
            onChange={(v) => setFrom(Math.round(v))}
          />
        )}
        <label className="flex items-center gap-1.5 text-sm">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={one}
            onChange={(e) => setOne(e.target.checked)}
          />
          only {name}
        </label>
        <div className="flex gap-1">
          <button type="button" className="press press-strong" onClick={() => void ask(seed)}>
            Suggest
          </button>
          <button type="button" className="press" disabled={!list} onClick={() => void ask(seed + 1)}>
            Another
          </button>
        </div>
      </div>
      <div className="flex min-w-0 grow flex-col">
        {list === null ? (
          <p className="text-sm text-muted">
            A proposal lists what it would change. Nothing is done before you take it, all or in part.
          </p>
        ) : list.length === 0 ? (
          <p className="text-sm text-muted">Nothing to change this way. Try more, or another seed.</p>
        ) : (
          <>
            <div className="mb-1 flex items-center gap-2">
              <span className="grow text-xs text-muted">
                draw {seed}: {list.length} changes
              </span>
              <button
                type="button"
                className="press h-7 px-2 text-xs"
                onClick={() => setList(list.map((p) => ({ ...p, on: taken.length === 0 })))}
              >
                {taken.length === 0 ? "All" : "None"}
              </button>
              <button
                type="button"
                className="press h-7 px-2 text-xs"
                disabled={taken.length === 0}
                title="Into a variation of its own, so that this one stays"
                onClick={() => {
                  edit([
                    { op: "variation.add", name: kinds.find(([k]) => k === kind)?.[1] ?? "" },
                    ...taken.flatMap((p) => p.edits),
                  ]);
                  setList(null);
                }}
              >
                Apply {taken.length} as a new variation
              </button>
              <button
                type="button"
                className="press press-strong h-7 px-2 text-xs"
                disabled={taken.length === 0}
                onClick={() => {
                  edit(taken.flatMap((p) => p.edits));
                  setList(null);
                }}
              >
                Apply {taken.length}
              </button>
            </div>
            <ul className="max-h-[220px] overflow-y-auto rounded-lg border border-line p-1 text-sm">
              {list.map((p, i) => (
                <li key={`${p.what} ${p.tick} ${p.voice}`}>
                  <label className="flex items-center gap-2 px-1 py-0.5">
                    <input
                      type="checkbox"
                      className="checkbox checkbox-xs"
                      checked={p.on}
                      onChange={(e) =>
                        setList(list.map((q, k) => (k === i ? { ...q, on: e.target.checked } : q)))
                      }
                    />
                    {p.what}
                  </label>
                </li>
              ))}
            </ul>
          </>
        )}
      </div>
    </section>
  );
}
