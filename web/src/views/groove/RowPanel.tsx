// What a row has: its grid and length, fills and spreads, what its notes follow.
import { useState } from "react";
import { api, type State } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { NumberField } from "../../parts/NumberField";
import { setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { useActiveReference, useInfo } from "../../state/queries";
import { useSelection } from "../../state/selection";
import { gridName } from "./layout";
import { usePanels } from "./panels";

export function RowPanel({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const notify = useProject((p) => p.notify);
  const reference = useActiveReference();
  const sel = useSelection();
  const grids = useInfo().data?.limits.grids ?? [];
  const solo = useMonitor((m) => m.solo);
  const ladder = usePanels((p) => p.ladder);
  const panel = usePanels((p) => p.set);
  const [every, setEvery] = useState(2);
  const [strokes, setStrokes] = useState(3);
  const [over, setOver] = useState(8);
  const [chords, setChords] = useState("");
  const doc = state.document;
  const voice = doc.kit.voices.find((v) => v.id === sel.voice) ?? doc.kit.voices[0];
  if (!voice) return null;
  const lane = doc.groove.lanes.find((l) => l.voice === voice.id);
  const grid = lane?.grid ?? 0;
  const own = grid || doc.groove.grid;
  const barSteps = (doc.groove.meter.beats * 4 * own) / doc.groove.meter.unit;
  const steps = lane?.steps || doc.groove.bars * barSteps;
  const others = doc.kit.voices.filter((v) => v.id !== voice.id);
  const alone = solo.includes(voice.id);
  return (
    <section aria-label="Row" className="flex flex-col gap-2">
      <h2 className="text-xl">{voice.name}</h2>
      <div className="flex flex-wrap gap-1">
        <button
          type="button"
          className={`press h-7 px-2 text-xs ${alone ? "bg-row!" : ""}`}
          aria-pressed={alone}
          title="W on the row"
          onClick={() => monitor.setSolo(alone ? solo.filter((v) => v !== voice.id) : [...solo, voice.id])}
        >
          Solo
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="All rows of this family"
          onClick={() => {
            const family = doc.kit.voices.filter((v) => v.family === voice.family).map((v) => v.id);
            monitor.setSolo(solo.length > 0 ? [] : family);
          }}
        >
          {solo.length > 0 ? "Clear solo" : "Solo the family"}
        </button>
        <button
          type="button"
          className={`press h-7 px-2 text-xs ${voice.mute ? "bg-row!" : ""}`}
          aria-pressed={voice.mute}
          onClick={() => edit([setNumber(`${voice.id}/mute`, voice.mute ? 0 : 1)])}
        >
          Mute
        </button>
        <button
          type="button"
          className={`press h-7 px-2 text-xs ${ladder === voice.id ? "bg-row!" : ""}`}
          aria-pressed={ladder === voice.id}
          title="Opens the row into the notes of the key"
          onClick={() => panel({ ladder: ladder === voice.id ? "" : voice.id })}
        >
          Notes
        </button>
      </div>
      <label className="flex items-center gap-2 text-sm">
        <span className="grow">Grid</span>
        <select
          className="press num h-7 px-1.5"
          aria-label="Grid of the row"
          value={grid}
          onChange={(e) =>
            edit([
              { op: "lane.grid", voice: voice.id, grid: Number(e.target.value), steps: lane?.steps ?? 0 },
            ])
          }
        >
          <option value={0}>same as the groove</option>
          {grids.map((n) => (
            <option key={n} value={n}>
              {gridName(n)}
            </option>
          ))}
        </select>
      </label>
      <NumberField
        label="Lane length"
        value={steps}
        unit="steps"
        min={1}
        max={1024}
        digits={0}
        step={1}
        log
        hint="A row of another length runs against the others"
        onChange={(v, gesture) =>
          Math.round(v) !== steps &&
          edit([{ op: "lane.grid", voice: voice.id, grid, steps: Math.round(v) }], gesture)
        }
      />
      {(lane?.steps ?? 0) > 0 && (
        <button
          type="button"
          className="press h-7 self-start px-2 text-xs"
          onClick={() => edit([{ op: "lane.grid", voice: voice.id, grid, steps: 0 }])}
        >
          Use the groove's length
        </button>
      )}
      <div className="border-t border-line pt-1">
        <h3 className="text-sm">Fill</h3>
        <div className="flex items-center gap-1 text-xs">
          every
          <Count label="Every so many steps" value={every} min={1} max={64} onChange={setEvery} />
          steps
          <span className="grow" />
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            onClick={() => edit([{ op: "lane.fill", voice: voice.id, every, from: 0 }])}
          >
            Fill
          </button>
        </div>
        <div className="mt-1 flex items-center gap-1 text-xs">
          <Count label="Strokes" value={strokes} min={0} max={64} onChange={setStrokes} />
          over
          <Count label="Steps" value={over} min={1} max={64} onChange={setOver} />
          <span className="grow" />
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="Spread evenly over the lane (Euclidean rhythm)"
            disabled={strokes > over}
            onClick={() => edit([{ op: "lane.spread", voice: voice.id, strokes, steps: over, rotate: 0 }])}
          >
            Spread
          </button>
        </div>
        <div className="mt-1 flex gap-1">
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="[ on the row"
            onClick={() => edit([{ op: "lane.shift", voice: voice.id, steps: -1 }])}
          >
            ← shift
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="] on the row"
            onClick={() => edit([{ op: "lane.shift", voice: voice.id, steps: 1 }])}
          >
            shift →
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            onClick={() => edit([{ op: "groove.clear", voice: voice.id }])}
          >
            Clear
          </button>
        </div>
      </div>
      <div className="border-t border-line pt-1">
        <h3 className="text-sm">Notes</h3>
        <label className="flex items-center gap-1.5 py-1 text-sm">
          <span className="grow">Follow the hits of</span>
          <select
            className="press h-7 max-w-[120px] px-1.5"
            aria-label="Follow the hits of"
            value=""
            onChange={(e) =>
              e.target.value && edit([{ op: "lane.follow", voice: voice.id, follows: e.target.value }])
            }
          >
            <option value="">…</option>
            {others.map((v) => (
              <option key={v.id} value={v.id}>
                {v.name}
              </option>
            ))}
          </select>
        </label>
        <input
          className="press h-8 w-full cursor-text px-2 text-sm"
          aria-label="Chords"
          placeholder="Fm | Db . Ab | Eb"
          title="Roots over bars; a dot holds the chord before. Notes that are there keep their places"
          value={chords}
          onChange={(e) => setChords(e.target.value)}
          onKeyDown={(e) =>
            e.key === "Enter" && chords && edit([{ op: "lane.roots", voice: voice.id, chords }])
          }
        />
        <button
          type="button"
          className="press mt-1 h-7 px-2 text-xs"
          disabled={chords.trim() === ""}
          onClick={() => edit([{ op: "lane.roots", voice: voice.id, chords }])}
        >
          Follow these roots
        </button>
        {reference && reference.kind !== "profile" && (
          <button
            type="button"
            className="press mt-1 block h-7 px-2 text-xs"
            title={`The bass heard in ${reference.name}, or its lowest notes`}
            onClick={async () => {
              try {
                const { roots, lasts_ticks, measurable, beats } = await api.roots(state.id, reference.id);
                edit([{ op: "lane.roots", voice: voice.id, roots, lasts_ticks }]);
                notify(`A bass note was recognized in ${measurable} of ${beats} beats.`, "info");
              } catch (e) {
                notify((e as Error).message);
              }
            }}
          >
            The reference's bass
          </button>
        )}
      </div>
    </section>
  );
}

function Count(p: { label: string; value: number; min: number; max: number; onChange: (v: number) => void }) {
  return (
    <input
      className="press num h-7 w-[48px] cursor-text px-1.5"
      type="number"
      aria-label={p.label}
      min={p.min}
      max={p.max}
      value={p.value}
      onChange={(e) => p.onChange(Math.min(Math.max(Math.round(Number(e.target.value)), p.min), p.max))}
    />
  );
}
