// How a fit is searched: what kind, how long, which parts of a recipe may be used.
import type { Schemas } from "../../api/client";
import { NumberField } from "../../parts/NumberField";
import { fitParts } from "../../state/fits";
import { chip, flip, partHints, partNames } from "./parts";
import type { Fitted } from "./useFitting";

const lengths = [
  [300, "quick"],
  [1000, "normal"],
  [3000, "thorough"],
] as const;

/** What is searched and how long; Fit begins. */
export function FitSearch({ of: f }: { of: Fitted }) {
  const { asked } = f;
  return (
    <>
      <select
        className="press h-8 px-1.5 text-sm"
        aria-label="What is searched"
        value={asked.kind}
        disabled={f.running}
        onChange={(e) => f.ask({ kind: e.target.value as Schemas["FitKind"] })}
      >
        <option value="recipe">a recipe</option>
        <option value="layers">up to 3 of the library</option>
      </select>
      <select
        className="press h-8 px-1.5 text-sm"
        aria-label="How many recipes are tried"
        value={asked.tries}
        disabled={f.running || asked.kind === "layers"}
        onChange={(e) => f.ask({ tries: Number(e.target.value) })}
      >
        {lengths.map(([n, text]) => (
          <option key={n} value={n}>
            {text}, {n} tries
          </option>
        ))}
      </select>
      <div className="w-[96px]">
        <NumberField
          label="Seed"
          value={asked.seed}
          unit=""
          min={1}
          max={9999}
          step={1}
          digits={0}
          onChange={(v) => f.ask({ seed: Math.round(v) })}
          compact
        />
      </div>
      {!f.running && (
        <button
          type="button"
          className="press press-strong"
          disabled={!f.ready || (asked.kind === "recipe" && asked.parts.length === 0)}
          onClick={f.start}
        >
          Fit
        </button>
      )}
    </>
  );
}

/** The parts that may be used, and whether what is nearest is heard in place. */
export function FitParts({ of: f }: { of: Fitted }) {
  const { asked } = f;
  return (
    <div className="flex flex-wrap items-center gap-1.5 text-xs text-muted">
      <fieldset
        className="flex flex-wrap items-center gap-1"
        aria-label="Parts that may be used"
        disabled={asked.kind === "layers"}
      >
        {fitParts.map((p) => (
          <button
            key={p}
            type="button"
            className={chip(asked.parts.includes(p))}
            title={partHints[p]}
            aria-pressed={asked.parts.includes(p)}
            disabled={f.running}
            onClick={() => f.ask({ parts: flip(asked.parts, p) })}
          >
            {partNames[p]}
          </button>
        ))}
        <button
          type="button"
          className={chip(asked.effects)}
          title="Equalizers, and drive for kicks and 808s"
          aria-pressed={asked.effects}
          disabled={f.running}
          onClick={() => f.ask({ effects: !asked.effects })}
        >
          Effects
        </button>
      </fieldset>
      may be used
      <span className="grow" />
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="checkbox checkbox-xs"
          checked={f.inPlace}
          onChange={(e) => f.setInPlace(e.target.checked)}
        />
        in its place while it is searched
      </label>
    </div>
  );
}
