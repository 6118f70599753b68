// How voices lie against each other at each step: mine over the reference's, with the
// zone that nobody hears; the pairs that differ most first.
import type { Schemas, State } from "../../api/client";
import { monitor } from "../../live/monitor";
import { familyName, Glyph, hue } from "../../parts/family";
import { num } from "../../parts/format";
import { useBetween } from "../../state/queries";
import { useSelection } from "../../state/selection";

export function Between({ state, width }: { state: State; width: number }) {
  const pairs = useBetween().data?.pairs;
  const sel = useSelection();
  const recording = state.document.references.some(
    (r) => r.id === state.document.active_reference && r.kind === "audio",
  );
  if (!pairs) return <p className="py-4 text-sm text-muted">Measuring…</p>;
  if (pairs.length === 0)
    return <p className="py-4 text-sm text-muted">No two voices strike on the same step yet.</p>;
  return (
    <section className="flex flex-col gap-1" aria-label="Between voices">
      <div className="flex items-center gap-2">
        <p className="grow text-xs text-muted">
          ms between two voices that hit on the same step. Dots: mine; line: reference. Shaded: too small to
          hear.
        </p>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          disabled={!recording}
          title="The hits of mine and the reference at the cursor, together, at quarter speed"
          onClick={() =>
            void monitor.study({
              keep_pitch: false,
              place: { voice: sel.voice, tick: sel.tick },
            })
          }
        >
          Play this step
        </button>
      </div>
      {pairs.slice(0, 8).map((p) => (
        <PairRow key={`${p.first} ${p.second}`} pair={p} width={width} />
      ))}
      {pairs.length > 8 && <p className="text-xs text-muted">{pairs.length - 8} more pairs differ less.</p>}
    </section>
  );
}

const span = 40; // ms either way

function PairRow({ pair: p, width }: { pair: Schemas["Pair"]; width: number }) {
  const plot = Math.max(width - 300, 120);
  const x = (ms: number) => plot / 2 + (Math.min(Math.max(ms, -span), span) / span) * (plot / 2 - 6);
  const far = p.mine_ms !== null && p.reference_ms !== null ? p.mine_ms - p.reference_ms : null;
  const heard = far !== null && Math.abs(far) > p.unheard_ms;
  return (
    <div className="flex items-center rounded-lg bg-base-200 px-2 text-sm">
      <span className="flex w-[190px] items-center gap-1.5 truncate">
        <Glyph family={p.first} size={13} /> {familyName(p.first)} → <Glyph family={p.second} size={13} />{" "}
        {familyName(p.second)}
      </span>
      <svg
        width={plot}
        height={34}
        role="img"
        aria-label={`${familyName(p.first)} to ${familyName(p.second)}: mine ${num(p.mine_ms, 1, true)} ms, reference ${num(p.reference_ms, 1, true)} ms`}
      >
        <line x1={0} x2={plot} y1={17} y2={17} stroke="var(--line-strong)" />
        <line x1={x(0)} x2={x(0)} y1={6} y2={28} stroke="var(--line-strong)" />
        {p.reference_ms !== null && (
          <>
            <rect
              x={x(p.reference_ms - p.unheard_ms)}
              width={Math.max(x(p.reference_ms + p.unheard_ms) - x(p.reference_ms - p.unheard_ms), 1)}
              y={3}
              height={28}
              rx={4}
              fill="var(--color-base-300)"
            />
            <line
              x1={x(p.reference_ms)}
              x2={x(p.reference_ms)}
              y1={3}
              y2={31}
              stroke="var(--ref)"
              strokeWidth={2.5}
            />
          </>
        )}
        {p.reference.map((a) => (
          <circle key={`r${a.step}`} cx={x(a.ms)} cy={25} r={2.6} fill="none" stroke="var(--ref)">
            <title>{`reference, step ${num(a.step + 1, 0)}: ${num(a.ms, 1, true)} ms`}</title>
          </circle>
        ))}
        {p.mine.map((a) => (
          <circle key={a.step} cx={x(a.ms)} cy={12} r={4} fill={hue(p.second)}>
            <title>{`step ${num(a.step + 1, 0)}: ${num(a.ms, 1, true)} ms, ${a.count} times`}</title>
          </circle>
        ))}
      </svg>
      <span className="num w-[110px] text-right text-xs">
        {num(p.mine_ms, 1, true)} <span className="text-ref">{num(p.reference_ms, 1, true)}</span>
        <br />
        {far !== null && (
          <span className={heard ? "font-semibold text-error" : "text-success"}>
            {num(far, 1, true)} {heard ? "heard" : "unheard"}
          </span>
        )}
      </span>
    </div>
  );
}
