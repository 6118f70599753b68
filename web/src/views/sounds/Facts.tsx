// What the render measures, beside the target's or the profile's, and the spectrum
// in third octaves with both.
import type { Schemas, Voice, VoiceSound } from "../../api/client";
import { familyName } from "../../parts/family";
import { noteText, num } from "../../parts/format";
import { rangeText } from "../../parts/ranges";
import { useProject } from "../../state/project";
import { useActiveReference, useAnalysis } from "../../state/queries";

type Measures = Schemas["Measures"];

interface Fact {
  name: string;
  unit: string;
  digits: number;
  of: (m: Measures) => number | null;
  /** How far apart two values are, and in what unit; else their difference. */
  apart?: (mine: number, target: number) => [number, string];
  /** Beyond it a difference is marked. */
  tolerance: (target: number) => number;
}

const share = (t: number) => Math.abs(t) * 0.2;
const facts: Fact[] = [
  {
    name: "Fundamental",
    unit: "Hz",
    digits: 1,
    of: (m) => m.fundamental_hz,
    apart: (a, b) => [1200 * Math.log2(a / b), "ct"],
    tolerance: () => 20,
  },
  { name: "Settles", unit: "ms", digits: 0, of: (m) => m.settles_ms, tolerance: share },
  { name: "Decay, 60 dB", unit: "ms", digits: 0, of: (m) => m.decay_60db_ms, tolerance: share },
  { name: "Attack", unit: "ms", digits: 1, of: (m) => m.attack_ms, tolerance: () => 2 },
  { name: "Snap", unit: "dB", digits: 1, of: (m) => m.snap_db, tolerance: () => 3 },
  { name: "Brightness", unit: "Hz", digits: 0, of: (m) => m.spectral_centroid_hz, tolerance: share },
  { name: "Peak", unit: "dBFS", digits: 1, of: (m) => m.peak_dbfs, tolerance: () => 99 },
];

export function Facts({ voice, sound }: { voice: Voice; sound: VoiceSound | undefined }) {
  const edit = useProject((p) => p.edit);
  const reference = useActiveReference();
  const analysis = useAnalysis().data;
  const m = sound?.measures;
  const aim = sound?.target?.measures;
  // What the active profile says of this family, where no slice is the target.
  const said = aim ? undefined : reference?.profile?.tones[voice.family];
  const wanted: Record<string, string> = said
    ? {
        Fundamental: rangeText(said.fundamental_hz, ""),
        "Decay, 60 dB": rangeText(said.decay_60db_ms, ""),
        Attack: rangeText(said.attack_ms, "", 1),
        Brightness: rangeText(said.spectral_centroid_hz, ""),
      }
    : {};
  const kickHz =
    voice.family === "kick" && reference && !aim ? (analysis?.kick_fundamental_hz ?? null) : null;
  return (
    <section aria-label="Measured">
      <div className="flex items-baseline">
        <h2 className="grow text-lg">Measured</h2>
        {aim && (
          <button
            type="button"
            className="cursor-pointer text-xs underline decoration-dotted underline-offset-2"
            title={`${sound?.target?.name} is no longer what this drum is built towards`}
            onClick={() => edit([{ op: "target.clear", voice: voice.id }])}
          >
            no target
          </button>
        )}
      </div>
      <table className="w-full text-sm">
        {(aim || said) && (
          <thead>
            <tr className="text-2xs text-muted">
              <th aria-label="Measure" />
              <th className="text-right font-normal">mine</th>
              <th className="text-right font-normal text-ref">{aim ? "target" : "profile"}</th>
              {aim && <th className="text-right font-normal">off by</th>}
            </tr>
          </thead>
        )}
        <tbody>
          {facts.map((f) => {
            const mine = m ? f.of(m) : null;
            const target = aim ? f.of(aim) : null;
            const [off, unit] =
              mine !== null && target !== null
                ? (f.apart?.(mine, target) ?? [mine - target, f.unit])
                : [null, ""];
            const inside = off === null || Math.abs(off) <= f.tolerance(target ?? 0);
            return (
              <tr key={f.name} className="border-b border-line/70">
                <th scope="row" className="py-px text-left font-normal">
                  {f.name}
                </th>
                <td className="num py-px text-right text-xs whitespace-nowrap" data-measure={f.name}>
                  {mine === null
                    ? m && f.name === "Fundamental"
                      ? "no pitch"
                      : "–"
                    : `${num(mine, f.digits)}${aim ? "" : ` ${f.unit}`}`}
                </td>
                {(aim || said) && (
                  <td className="num py-px pl-2 text-right text-xs text-ref" data-target={f.name}>
                    {aim ? num(target, f.digits) : (wanted[f.name] ?? "–")}
                  </td>
                )}
                {aim && (
                  <td
                    className={`num py-px pl-2 text-right text-xs whitespace-nowrap ${inside ? "text-success" : "font-semibold text-error"}`}
                  >
                    {off === null || f.name === "Peak"
                      ? ""
                      : `${num(off, unit === "ct" || f.digits === 0 ? 0 : 1, true)} ${unit === f.unit ? "" : unit}`}
                  </td>
                )}
              </tr>
            );
          })}
          <tr>
            <th scope="row" className="py-px text-left font-normal">
              Note
            </th>
            <td className="num py-px text-right text-xs whitespace-nowrap" data-measure="Note">
              {m?.fundamental_hz ? noteText(m.fundamental_hz) : "–"}
            </td>
            {(aim || said) && (
              <td className="num py-px text-right text-xs whitespace-nowrap text-ref" data-target="Note">
                {aim?.fundamental_hz ? noteText(aim.fundamental_hz).split(" ")[0] : ""}
              </td>
            )}
            {aim && <td />}
          </tr>
        </tbody>
      </table>
      {kickHz !== null && (
        <p className="flex justify-between text-xs">
          <span className="text-ref">
            reference <span className="num">{num(kickHz)} Hz</span>
          </span>
          {m?.fundamental_hz && <Off cents={1200 * Math.log2(m.fundamental_hz / kickHz)} />}
        </p>
      )}
      <Family voice={voice} sound={sound} />
      <Spectrum mine={m?.third_octave_db ?? {}} target={aim?.third_octave_db} />
    </section>
  );
}

/** Whether it measures as its family does, in two lines always, so that nothing below moves. */
function Family({ voice, sound }: { voice: Voice; sound: VoiceSound | undefined }) {
  const family = familyName(voice.family).toLowerCase();
  const outside = sound?.outside_family;
  const says = outside ? `Unusual for a ${family}: ${outside}` : `Measures as a ${family} does`;
  return (
    <p
      className={`mt-0.5 line-clamp-2 h-[32px] text-xs leading-4 ${outside ? "text-error" : "text-muted"}`}
      title={`${says}. By what drums of this family usually measure (common practice)`}
    >
      {sound?.measures && says}
    </p>
  );
}

function Off({ cents }: { cents: number }) {
  const inside = Math.abs(cents) <= 20;
  return (
    <span className={inside ? "text-success" : "font-semibold text-error"}>
      <span className="num">{num(cents, 0, true)} ct</span> {inside ? "inside" : "outside"}
    </span>
  );
}

/** Third octaves, each against the fullest; the target's stand beside them. */
function Spectrum({
  mine,
  target,
}: {
  mine: Record<string, number>;
  target: Record<string, number> | undefined;
}) {
  const bands = Object.keys(mine)
    .map(Number)
    .sort((a, b) => a - b);
  const width = 250;
  const height = 62;
  const floor = -48;
  const rel = (of: Record<string, number>) => {
    const top = Math.max(...Object.values(of));
    return (hz: number) => Math.max((of[String(hz)] ?? floor - 1 + top) - top, floor);
  };
  const a = rel(mine);
  const b = target && Object.keys(target).length > 0 ? rel(target) : undefined; // a hidden band has none
  const step = width / Math.max(bands.length, 1);
  const y = (db: number) => 4 + (db / floor) * (height - 18);
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className="mt-1.5 w-full"
      role="img"
      aria-label="Spectrum in third octaves"
    >
      {bands.map((hz, i) => (
        <g key={hz}>
          <rect
            x={i * step + 0.8}
            width={b ? step / 2 - 0.8 : step - 1.6}
            y={y(a(hz))}
            height={Math.max(height - 14 - y(a(hz)), 0)}
            fill="var(--kick)"
            opacity={0.8}
          >
            <title>{`${num(hz, 0)} Hz: ${num(a(hz), 0)} dB${b ? `, target ${num(b(hz), 0)} dB` : ""}`}</title>
          </rect>
          {b && (
            <rect
              x={i * step + step / 2}
              width={step / 2 - 0.8}
              y={y(b(hz))}
              height={Math.max(height - 14 - y(b(hz)), 0)}
              fill="var(--ref)"
            />
          )}
        </g>
      ))}
      {[50, 200, 1000, 5000].map((hz) => {
        const i = bands.findIndex((f) => f >= hz * 0.95);
        if (i < 0) return null;
        return (
          <text key={hz} x={i * step + step / 2} y={height - 2} textAnchor="middle">
            {hz >= 1000 ? `${hz / 1000}k` : hz}
          </text>
        );
      })}
    </svg>
  );
}
