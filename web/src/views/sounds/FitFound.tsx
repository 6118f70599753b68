// What a fit has found: how near it is, drawn over the target, and taken or given up.
import type { Schemas, Voice } from "../../api/client";
import { num } from "../../parts/format";
import { fitParts } from "../../state/fits";
import { Bands, Nearness, Over } from "./FitPlots";
import { chip, flip, partNames } from "./parts";
import type { Fitted } from "./useFitting";

export function FitFound({ of: f, soFar, voice }: { of: Fitted; soFar: Schemas["FitSoFar"]; voice: Voice }) {
  const { held } = f.asked;
  return (
    <>
      <div className="flex items-center gap-3">
        <progress
          className="progress h-1.5 grow"
          aria-label="How much is searched"
          value={soFar.done}
          max={1}
        />
        <span className="num shrink-0 text-sm" role="status">
          {f.running
            ? `${num(soFar.loss_db, 1)} dB away`
            : f.stopped
              ? `stopped, ${num(soFar.result?.distance_db ?? soFar.loss_db, 1)} dB away`
              : `${num(soFar.result?.distance_db ?? soFar.loss_db, 1)} dB away${soFar.result ? `, ${soFar.result.evaluations} tried` : ""}`}
        </span>
      </div>
      <Over soFar={soFar} voice={voice} />
      <div className="grid grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] gap-3">
        <Bands soFar={soFar} voice={voice} />
        <Nearness soFar={soFar} />
      </div>
      {!f.running && (
        <div className="flex flex-wrap items-center gap-2">
          <button type="button" className="press press-strong" disabled={!f.found} onClick={f.take}>
            Use
          </button>
          <button type="button" className="press" disabled={!f.found} onClick={f.hear}>
            Hear it
          </button>
          <button type="button" className="press" onClick={f.giveUp}>
            Back to what was there
          </button>
          <label className="flex items-center gap-1.5 text-xs text-muted">
            <input
              type="checkbox"
              className="checkbox checkbox-xs"
              checked={f.attack}
              onChange={(e) => f.setAttack(e.target.checked)}
            />
            with the target's own first 12 ms
          </label>
        </div>
      )}
      {!f.running && soFar.result && (
        <div className="flex flex-wrap items-center gap-2">
          <fieldset
            className="flex flex-wrap items-center gap-1 text-xs text-muted"
            aria-label="Parts that are held"
          >
            held:
            {fitParts.map((p) => (
              <button
                key={p}
                type="button"
                className={chip(held.includes(p))}
                aria-pressed={held.includes(p)}
                onClick={() => f.ask({ held: flip(held, p) })}
              >
                {partNames[p]}
              </button>
            ))}
          </fieldset>
          <button
            type="button"
            className="press"
            disabled={!f.ready || !f.found}
            title="Takes this and searches on from it; held parts stay as they are"
            onClick={f.again}
          >
            Fit again from here
          </button>
        </div>
      )}
    </>
  );
}
