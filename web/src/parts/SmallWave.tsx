// A sound in small: the least and greatest sample of each part.
export function SmallWave({ points, colour }: { points: [number, number][]; colour: string }) {
  const peak = Math.max(...points.map((p) => Math.max(Math.abs(p[0]), Math.abs(p[1]))), 1e-6);
  const y = (v: number) => 20 - (v / peak) * 18;
  const top = points.map((p, i) => `${i},${y(p[1]).toFixed(1)}`);
  const low = points.map((p, i) => `${i},${(y(p[0]) + 0.8).toFixed(1)}`).reverse();
  return (
    <svg
      viewBox={`0 0 ${Math.max(points.length, 1)} 40`}
      className="h-10 w-full"
      preserveAspectRatio="none"
      aria-hidden="true"
    >
      <polygon points={[...top, ...low].join(" ")} fill={colour} />
    </svg>
  );
}
