// Mine and the reference's on one axis: timing and velocity by step, the level over time,
// the spectrum. Mine is filled, the reference outlined.
import type { Schemas } from "../../api/client";
import { familyName, hue } from "../../parts/family";

type OverOf = Schemas["Over"];

export function Overlays({ over, group }: { over: OverOf; group: Schemas["Group"] }) {
  const name = familyName(over.family);
  const feel = group === "feel" || group === "hits";
  const sound = over.mine_db.length > 0 || over.reference_db.length > 0;
  return (
    <section aria-label={`${name}, one over the other`} className="mt-2">
      <div className="mb-1 flex items-baseline gap-3 text-xs text-muted">
        <h2 className="text-lg text-base-content">{name}</h2>
        <span>mine filled, the reference outlined{feel ? "" : "; both as loud"}</span>
      </div>
      {feel ? (
        <div className="grid grid-cols-2 gap-4">
          <Steps over={over} what="timing" />
          <Steps over={over} what="velocity" />
        </div>
      ) : sound ? (
        <div className="grid grid-cols-2 gap-4">
          <Envelope over={over} />
          <Spectrum over={over} />
        </div>
      ) : (
        <p className="text-xs text-muted">There is no sound on either side to draw.</p>
      )}
    </section>
  );
}

const W = 400;
const H = 110;

function Plot(p: { label: string; title: string; left: string; right: string; children: React.ReactNode }) {
  return (
    <figure>
      <svg
        role="img"
        aria-label={p.label}
        viewBox={`0 0 ${W} ${H}`}
        className="block h-[110px] w-full rounded bg-base-200"
        preserveAspectRatio="none"
      >
        {p.children}
      </svg>
      <figcaption className="num flex justify-between text-2xs text-muted">
        <span>{p.left}</span>
        <span className="font-sans text-xs">{p.title}</span>
        <span>{p.right}</span>
      </figcaption>
    </figure>
  );
}

function Steps({ over, what }: { over: OverOf; what: "timing" | "velocity" }) {
  const n = Math.max(over.steps.length, 1);
  const at = (i: number) => (i / n) * W;
  const most = Math.max(
    12,
    ...over.steps.flatMap((s) => [Math.abs(s.mine_ms ?? 0), Math.abs(s.reference_ms ?? 0)]),
  );
  const y = (v: number) =>
    what === "timing" ? H / 2 - (v / most) * (H / 2 - 6) : H - 4 - (v / 127) * (H - 10);
  const zero = what === "timing" ? H / 2 : H - 4;
  const w = W / n;
  return (
    <Plot
      label={what === "timing" ? "Timing by step of the bar, late is up" : "Velocity by step of the bar"}
      title={
        what === "timing"
          ? `Timing by step, ±${Math.round(most)} ms, late is up`
          : "Velocity by step, 0 to 127"
      }
      left="step 1"
      right={`step ${n}`}
    >
      <line x1={0} x2={W} y1={zero} y2={zero} stroke="var(--line)" vectorEffect="non-scaling-stroke" />
      {over.steps.map((s, i) => {
        const mine = what === "timing" ? s.mine_ms : s.mine_velocity;
        const theirs = what === "timing" ? s.reference_ms : s.reference_velocity;
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: steps are distinguished by their place
          <g key={i}>
            {mine !== null && (
              <rect
                x={at(i) + w * 0.2}
                width={w * 0.6}
                y={Math.min(y(mine), zero)}
                height={Math.max(Math.abs(y(mine) - zero), 1.5)}
                fill={hue(over.family)}
                opacity={0.35 + 0.65 * s.mine_hits}
              />
            )}
            {theirs !== null && (
              <line
                x1={at(i) + w * 0.08}
                x2={at(i) + w * 0.92}
                y1={y(theirs)}
                y2={y(theirs)}
                stroke="var(--ref)"
                strokeWidth={2.5}
                opacity={0.35 + 0.65 * s.reference_hits}
                vectorEffect="non-scaling-stroke"
              />
            )}
          </g>
        );
      })}
    </Plot>
  );
}

const low = -60;

function Envelope({ over }: { over: OverOf }) {
  const n = Math.max(over.mine_db.length, over.reference_db.length, 2);
  const path = (list: number[]) =>
    list.map((v, i) => `${((i / (n - 1)) * W).toFixed(1)},${(4 + (v / low) * (H - 8)).toFixed(1)}`).join(" ");
  return (
    <Plot
      label="Level over time"
      title="Level over time, 0 to −60 dB"
      left="0 ms"
      right={`${Math.round(n * over.frame_ms)} ms`}
    >
      {over.mine_db.length > 0 && (
        <polygon points={`0,${H} ${path(over.mine_db)} ${W},${H}`} fill={hue(over.family)} opacity={0.5} />
      )}
      <polyline
        points={path(over.reference_db)}
        fill="none"
        stroke="var(--ref)"
        strokeWidth={2}
        strokeDasharray="5 3"
        vectorEffect="non-scaling-stroke"
      />
    </Plot>
  );
}

function Spectrum({ over }: { over: OverOf }) {
  const bands = over.third_octaves;
  const top = Math.max(...bands.flatMap((b) => [b.mine, b.reference]), -20);
  const y = (v: number) => 4 + (Math.min(top - v, 50) / 50) * (H - 8);
  const w = W / Math.max(bands.length, 1);
  const first = bands[0]?.hz ?? 25;
  const last = bands[bands.length - 1]?.hz ?? 20000;
  return (
    <Plot
      label="Third octaves"
      title="Third octaves, 50 dB"
      left={`${Math.round(first)} Hz`}
      right={`${(last / 1000).toFixed(0)} kHz`}
    >
      {bands.map((b, i) => (
        <g key={b.hz}>
          <rect
            x={i * w + w * 0.12}
            width={w * 0.76}
            y={y(b.mine)}
            height={H - y(b.mine)}
            fill={hue(over.family)}
            opacity={0.6}
          />
          <line
            x1={i * w}
            x2={(i + 1) * w}
            y1={y(b.reference)}
            y2={y(b.reference)}
            stroke="var(--ref)"
            strokeWidth={2.5}
            vectorEffect="non-scaling-stroke"
          />
        </g>
      ))}
    </Plot>
  );
}
