// The project's grooves in numbers: what differs, and which is nearest to the reference.
import type { State } from "../../api/client";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";
import { useTries } from "../../state/queries";

const measures = [
  ["pattern", "Pattern, alike", (v: number) => `${num(v * 100, 0)} %`, (v: number) => -v * 100],
  ["swing_points", "Swing, points off", (v: number) => num(v, 1, true), Math.abs],
  ["lean_ms", "Lean, ms off", (v: number) => num(v), Math.abs],
  ["scatter_ms", "Scatter, ms off", (v: number) => num(v), Math.abs],
] as const;

export function Tries({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const tries = useTries().data?.tries;
  if (!tries) return <p className="py-4 text-sm text-muted">Measuring…</p>;
  const { variation, variations } = state.document;
  const best = Object.fromEntries(
    measures.map(([id, , , far]) => {
      const measurable = tries.filter((t) => t[id] !== null);
      const least = Math.min(...measurable.map((t) => far(t[id] ?? 0)));
      return [
        id,
        measurable.length > 1
          ? measurable.filter((t) => far(t[id] ?? 0) === least).map((t) => t.variation)
          : [],
      ];
    }),
  );
  const mine = tries.find((t) => t.variation === variation);
  const words = tries
    .filter((t) => t.variation !== variation && mine)
    .map((t) => {
      const nearer = measures.flatMap(([id, text, , far]) => {
        const a = t[id];
        const b = mine?.[id];
        if (a === null || b === null || b === undefined || Math.abs(far(a) - far(b)) < 0.05) return [];
        return [`${far(a) < far(b) ? "nearer" : "farther"} in ${text.split(",")[0]?.toLowerCase()}`];
      });
      return nearer.length > 0 ? `${t.variation.toUpperCase()} is ${nearer.join(", ")}.` : "";
    })
    .filter(Boolean);
  return (
    <section aria-label="Variations in numbers">
      <table className="w-full text-sm">
        <thead>
          <tr className="text-left text-xs text-muted">
            <th className="py-1 font-normal">Variation</th>
            <th className="font-normal">Hits</th>
            <th className="font-normal">Differs in</th>
            <th
              className="font-normal"
              title="Kicks and snares that come before a rest of more weight, summed over a bar (Longuet-Higgins and Lee 1984)"
            >
              Syncopation
            </th>
            {measures.map(([id, text]) => (
              <th key={id} className="font-normal">
                {text}
              </th>
            ))}
            <th className="sr-only">What can be done</th>
          </tr>
        </thead>
        <tbody>
          {tries.map((t) => {
            const v = variations.find((x) => x.id === t.variation);
            return (
              <tr
                key={t.variation}
                className={`border-t border-line ${t.variation === variation ? "bg-row" : ""}`}
              >
                <td className="py-1 pl-1">
                  <b>{t.variation.toUpperCase()}</b> {v?.name}
                </td>
                <td className="num">{t.hits}</td>
                <td className="num">{t.variation === variation ? "–" : `${t.differs} hits`}</td>
                <td className="num">{num(t.syncopation)}</td>
                {measures.map(([id, , show]) => (
                  <td
                    key={id}
                    className={`num ${best[id]?.includes(t.variation) ? "font-semibold text-success" : ""}`}
                  >
                    {t[id] === null ? "–" : show(t[id] ?? 0)}
                  </td>
                ))}
                <td className="text-right">
                  {t.variation !== variation && (
                    <button
                      type="button"
                      className="press h-7 px-2 text-xs"
                      onClick={() => edit([{ op: "variation.use", variation: t.variation }])}
                    >
                      Play
                    </button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="mt-1 text-xs text-muted" role="status">
        {words.join(" ") ||
          (tries.length < 2
            ? "Press + beside A to keep this groove and go on with a copy. They switch on the bar while it plays."
            : "Import a reference to see which is nearest to it.")}
      </p>
    </section>
  );
}
