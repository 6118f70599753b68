// What a profile says, family by family.
import type { Schemas } from "../../api/client";
import { familyName, Glyph } from "../../parts/family";
import { rangeText } from "../../parts/ranges";
import { useInfo } from "../../state/queries";

export function ProfileTable({ profile }: { profile: Schemas["Profile"] }) {
  const order: string[] = useInfo().data?.families ?? [];
  const voices = Object.entries(profile.voices).sort(([a], [b]) => order.indexOf(a) - order.indexOf(b));
  const facts: [string, string][] = [
    ["Tempo", rangeText(profile.tempo_bpm, "BPM")],
    ["Meter", profile.meter],
    [profile.pair === 8 ? "Swing, eighths" : "Swing, sixteenths", rangeText(profile.swing_percent, "%", 1)],
    ["Kick fundamental", rangeText(profile.kick_fundamental_hz, "Hz")],
  ];
  const tones = Object.entries(profile.tones).sort(([a], [b]) => order.indexOf(a) - order.indexOf(b));
  return (
    <>
      <dl className="mb-3 grid w-fit grid-cols-[150px_auto] gap-y-1 text-sm">
        {facts.map(([name, value]) => (
          <div key={name} className="contents">
            <dt>{name}</dt>
            <dd className="num">{value}</dd>
          </div>
        ))}
      </dl>
      <table className="w-full max-w-[600px] text-sm">
        <thead>
          <tr className="text-left text-xs text-muted">
            <th className="py-1 font-normal">family</th>
            <th className="py-1 text-right font-normal">lean, ms</th>
            <th className="py-1 text-right font-normal">scatter, ms</th>
            <th className="py-1 text-right font-normal">velocity</th>
            <th className="py-1 text-right font-normal">hits per beat</th>
          </tr>
        </thead>
        <tbody>
          {voices.map(([family, v]) => (
            <tr key={family} className="border-t border-line/70">
              <th scope="row" className="py-1.5 text-left font-semibold">
                <span className="flex items-center gap-2">
                  <Glyph family={family} size={15} /> {familyName(family)}
                </span>
              </th>
              <td className="num text-right">{rangeText(v.lean_ms, "", 0, true)}</td>
              <td className="num text-right">{rangeText(v.scatter_ms, "")}</td>
              <td className="num text-right">{rangeText(v.velocity, "")}</td>
              <td className="num text-right">{rangeText(v.density, "", 1)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {profile.borrowed && profile.borrowed.length > 0 && (
        <p className="mt-3 max-w-[600px] text-sm text-muted">
          Borrowed from the genre:{" "}
          {profile.borrowed.map((b, i) => (
            <span key={b.id}>
              {i > 0 && ", "}
              {borrowedName(b.id)} <span className="num">{b.percent} %</span>
            </span>
          ))}
        </p>
      )}
      {tones.length > 0 && (
        <table className="mt-4 w-full max-w-[600px] text-sm" aria-label="Tones">
          <thead>
            <tr className="text-left text-xs text-muted">
              <th className="py-1 font-normal">tone of a hit</th>
              <th className="py-1 text-right font-normal">fundamental, Hz</th>
              <th className="py-1 text-right font-normal">decay 60 dB, ms</th>
              <th className="py-1 text-right font-normal">brightness, Hz</th>
              <th className="py-1 text-right font-normal">hits</th>
            </tr>
          </thead>
          <tbody>
            {tones.map(([family, t]) => (
              <tr key={family} className="border-t border-line/70">
                <th scope="row" className="py-1.5 text-left font-semibold">
                  <span className="flex items-center gap-2">
                    <Glyph family={family} size={15} /> {familyName(family)}
                  </span>
                </th>
                <td className="num text-right">{rangeText(t.fundamental_hz, "")}</td>
                <td className="num text-right">{rangeText(t.decay_60db_ms, "")}</td>
                <td className="num text-right">{rangeText(t.spectral_centroid_hz, "")}</td>
                <td className="num text-right">{t.count}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

/** What was borrowed, in words: "lean of the snare". */
function borrowedName(id: string): string {
  const [measure = "", family] = id.split(".");
  return family ? `${measure.toLowerCase()} of the ${familyName(family).toLowerCase()}` : measure;
}
