// Make variants: variants of a layer's recipe, heard with the arrow keys, the good ones
// kept under numbered names or taken away as numbered files.
import { useQueryClient } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { api, type Layer, type Schemas, type Voice } from "../../api/client";
import { hue } from "../../parts/family";
import { noteText, num } from "../../parts/format";
import { HearList, PercentWave } from "../../parts/HearList";
import { NumberField } from "../../parts/NumberField";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { usePreview } from "./usePreview";

type Variant = Schemas["SoundVariant"] & { number: number };

const groups = [
  ["pitch", "pitches"],
  ["time", "times"],
  ["colour", "colours"],
  ["level", "levels"],
] as const;

const orders = {
  number: "as made",
  near: "most alike",
  far: "least alike",
  dark: "darkest",
  short: "shortest",
  low: "lowest",
} as const;
type Order = keyof typeof orders;

export function Many({ voice, layer }: { voice: Voice; layer: Layer }) {
  const id = useProject((p) => p.state?.id) ?? "";
  const notify = useProject((p) => p.notify);
  const client = useQueryClient();
  const show = useShaping((s) => s.set);
  const preview = usePreview(voice);
  const [count, setCount] = useState(12);
  const [percent, setPercent] = useState(20);
  const [seed, setSeed] = useState(1);
  const [chosenGroups, setGroups] = useState<string[]>(groups.map(([g]) => g));
  const [made, setMade] = useState<Variant[]>([]);
  const [making, setMaking] = useState<AbortController | null>(null);
  const [order, setOrder] = useState<Order>("number");
  const [chosen, setChosen] = useState("");
  const [kept, setKept] = useState<number[]>([]);
  const [name, setName] = useState(voice.name);
  const base = useRef(preview.before);
  const make = async (nextSeed: number) => {
    making?.abort();
    const work = new AbortController();
    setMaking(work);
    setSeed(nextSeed);
    try {
      // Of what was there when this was opened, not of a variant that is being heard.
      preview.back();
      const list = await api.vary(
        id,
        voice.id,
        { layer: layer.id, count, percent, groups: chosenGroups, seed: nextSeed },
        work.signal,
      );
      setMade(list.variants.map((v, i) => ({ ...v, number: i + 1 })));
      setKept([]);
      setChosen("");
    } catch (e) {
      if (!work.signal.aborted) notify((e as Error).message);
    } finally {
      setMaking((m) => (m === work ? null : m));
    }
  };
  const layersOf = (v: Variant): Layer[] =>
    base.current.map((l) => (l.id === layer.id ? { ...l, recipe: v.recipe } : l));
  const list = useMemo(() => {
    const by: Record<Order, (v: Variant) => number> = {
      number: (v) => v.number,
      near: (v) => v.distance_db,
      far: (v) => -v.distance_db,
      dark: (v) => v.facts.spectral_centroid_hz ?? 1e6,
      short: (v) => v.facts.decay_60db_ms ?? 1e6,
      low: (v) => v.facts.fundamental_hz ?? 1e6,
    };
    return [...made].sort((a, b) => by[order](a) - by[order](b));
  }, [made, order]);
  const good = made.filter((v) => kept.includes(v.number));
  const keep = async () => {
    try {
      for (const [i, v] of good.entries())
        await api.saveSound(id, voice.id, {
          name: `${name} ${String(i + 1).padStart(2, "0")}`,
          tags: [],
          layers: layersOf(v),
        });
      notify(`${good.length} sounds are in the library.`, "info");
      await client.invalidateQueries({ queryKey: ["library"] });
    } catch (e) {
      notify((e as Error).message);
    }
  };
  const exportFiles = async () => {
    try {
      const file = await api.numbered(id, voice.id, {
        set: name,
        layer: layer.id,
        recipes: good.map((v) => v.recipe),
      });
      const a = document.createElement("a");
      a.href = URL.createObjectURL(file.data);
      a.download = `${name} ${file.name}`;
      a.click();
      setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
    } catch (e) {
      notify((e as Error).message);
    }
  };
  const toggle = (n: number) => setKept(kept.includes(n) ? kept.filter((k) => k !== n) : [...kept, n]);
  const close = () => show({ panel: "charts" });
  return (
    <section className="flex min-h-0 grow flex-col gap-1.5" aria-label="Make variants">
      <div className="flex flex-wrap items-center gap-2.5">
        <div className="w-[126px]">
          <NumberField
            label="How many"
            value={count}
            unit=""
            min={1}
            max={48}
            step={1}
            digits={0}
            onChange={(v) => setCount(Math.round(v))}
            compact
          />
        </div>
        <div className="w-[126px]">
          <NumberField
            label="How far"
            value={percent}
            unit="%"
            min={1}
            max={100}
            step={1}
            digits={0}
            onChange={setPercent}
            compact
          />
        </div>
        <fieldset className="flex gap-1" aria-label="What may change">
          {groups.map(([g, text]) => (
            <button
              key={g}
              type="button"
              className={`press h-7 px-2 text-xs ${chosenGroups.includes(g) ? "bg-row!" : ""}`}
              aria-pressed={chosenGroups.includes(g)}
              onClick={() =>
                setGroups(
                  chosenGroups.includes(g) ? chosenGroups.filter((x) => x !== g) : [...chosenGroups, g],
                )
              }
            >
              {text}
            </button>
          ))}
        </fieldset>
        <button
          type="button"
          className="press bg-neutral! text-neutral-content!"
          disabled={chosenGroups.length === 0}
          onClick={() => void make(made.length === 0 ? seed : seed + 1)}
        >
          {made.length === 0 ? "Make" : "More"}
        </button>
        {making && (
          <button type="button" className="press" onClick={() => making.abort()}>
            Stop
          </button>
        )}
        <span className="grow" />
        <select
          className="press h-8 max-w-[130px] px-1.5 text-sm"
          aria-label="Order"
          value={order}
          onChange={(e) => setOrder(e.target.value as Order)}
        >
          {Object.entries(orders).map(([k, text]) => (
            <option key={k} value={k}>
              {text}
            </option>
          ))}
        </select>
        <button type="button" className="press" onClick={close}>
          Done
        </button>
      </div>
      {made.length === 0 && (
        <p className="rowbox px-3 py-6 text-center text-sm text-muted" role="status">
          {making
            ? `Making ${count} and measuring them…`
            : `Sounds like ${layer.name}, each a little other. What may change, and how far, is above; the same seed (${seed}) makes the same again.`}
        </p>
      )}
      {made.length > 0 && (
        <HearList
          label="Variants"
          items={list}
          id={(v) => String(v.number)}
          chosen={chosen}
          onChoose={(v) => {
            setChosen(String(v.number));
            preview.hear(layersOf(v), `variant ${v.number}`);
          }}
          onTake={() => {
            preview.take();
            close();
          }}
          onBack={() => {
            preview.back();
            close();
          }}
        >
          {(v) => (
            <div className="flex items-center gap-3">
              <input
                type="checkbox"
                className="size-3.5 accent-neutral"
                aria-label={`Keep number ${v.number}`}
                checked={kept.includes(v.number)}
                onClick={(e) => e.stopPropagation()}
                onChange={() => toggle(v.number)}
              />
              <span className="num w-[30px]">{v.number}</span>
              <PercentWave points={v.facts.wave} colour={hue(voice.family)} />
              <span className="grow" />
              <span className="num w-[90px] text-right text-xs">
                {v.facts.fundamental_hz ? noteText(v.facts.fundamental_hz) : "no pitch"}
              </span>
              <span className="num w-[70px] text-right text-xs">{num(v.facts.decay_60db_ms, 0)} ms</span>
              <span className="num w-[80px] text-right text-xs">
                {num(v.facts.spectral_centroid_hz, 0)} Hz
              </span>
              <span
                className="num w-[70px] text-right text-xs"
                title="How unlike it sounds to what was there"
              >
                {num(v.distance_db)} dB
              </span>
            </div>
          )}
        </HearList>
      )}
      <div className="flex items-center gap-2 text-xs text-muted">
        <span className="grow">
          ↑ ↓ hear one, Enter takes it, Escape brings back what was there; tick the good ones.
        </span>
        <input
          className="press h-8 w-[150px] cursor-text px-2 text-sm"
          aria-label="Name of the set"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="button" className="press" disabled={good.length === 0} onClick={() => void keep()}>
          Save {good.length} to library
        </button>
        <button
          type="button"
          className="press"
          disabled={good.length === 0}
          title="Numbers go on from the last file of this set"
          onClick={() => void exportFiles()}
        >
          Export as numbered files
        </button>
      </div>
    </section>
  );
}
