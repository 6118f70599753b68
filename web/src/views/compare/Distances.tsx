// How many values lay outside in each version that was compared, by what they are about.
import { useDistances } from "../../state/queries";

const shades: [string, string, string][] = [
  ["feel", "feel", "var(--kick)"],
  ["hits", "hits", "var(--ref)"],
  ["tone", "tone", "var(--late)"],
  ["levels", "levels", "var(--early)"],
];

export function Distances({ compared }: { compared: number }) {
  const list = useDistances(compared).data?.distances ?? [];
  if (list.length < 2) return null;
  const shown = list.slice(-60);
  const most = Math.max(...shown.map((d) => d.outside), 1);
  const W = 230;
  const H = 70;
  const x = (i: number) => 4 + (i / Math.max(shown.length - 1, 1)) * (W - 8);
  const first = shown[0];
  const last = shown[shown.length - 1];
  // The parts lie on each other.
  const layers = shades.map(([group], k) => {
    const sum = (i: number, n: number) =>
      shades
        .slice(0, n)
        .reduce((s, [g]) => s + (shown[i]?.parts.find((p) => p.group === g)?.outside ?? 0), 0);
    const y = (v: number) => H - 4 - (v / most) * (H - 10);
    const upper = shown.map((_, i) => `${x(i).toFixed(1)},${y(sum(i, k + 1)).toFixed(1)}`);
    const lower = shown.map((_, i) => `${x(i).toFixed(1)},${y(sum(i, k)).toFixed(1)}`).reverse();
    return { group, points: [...upper, ...lower].join(" ") };
  });
  return (
    <section aria-label="Distance over versions" className="text-xs">
      <h3 className="text-sm">Outside, version by version</h3>
      <svg
        role="img"
        aria-label={`${first?.outside} outside at first, ${last?.outside} now`}
        viewBox={`0 0 ${W} ${H}`}
        className="block w-full rounded bg-base-100"
      >
        {layers.map((l, k) => (
          <polygon key={l.group} points={l.points} fill={shades[k]?.[2]} opacity={0.75} />
        ))}
      </svg>
      <p className="flex flex-wrap gap-x-3 text-2xs text-muted">
        {shades.map(([group, label, color]) => (
          <span key={group} className="inline-flex items-center gap-1">
            <span className="inline-block size-2 rounded-sm" style={{ background: color }} />
            {label} {last?.parts.find((p) => p.group === group)?.outside ?? 0}
          </span>
        ))}
      </p>
    </section>
  );
}
