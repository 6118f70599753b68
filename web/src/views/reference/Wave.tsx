import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api } from "../../api/client";

/** A wave between two times; nothing where the reference has no sound. */
export function Wave({
  project,
  reference,
  from,
  to,
  width,
  height,
  colour,
}: {
  project: string;
  reference: string;
  from: number;
  to: number;
  width: number;
  height: number;
  colour: string;
}) {
  const points = Math.max(Math.min(Math.round(width), 1500), 1);
  const start = Math.max(from, 0);
  const { data, error } = useQuery({
    queryKey: ["wave", project, reference, start, to, points],
    queryFn: () => api.wave(project, reference, start, to, points),
    enabled: width > 0 && to > start,
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
  if (!data) {
    if (to <= start) return null;
    const said = error ? `The wave could not be read: ${error.message}` : "Reading the sound…";
    return (
      <text x={12} y={height / 2 + 4} className="fill-muted font-sans text-xs">
        {said}
      </text>
    );
  }
  if (data.points.length === 0) return null;
  const shift = ((start - from) / (to - from)) * width;
  const scale = (width - shift) / data.points.length;
  const y = (v: number) => height / 2 - (v * height) / 2.1;
  const tops = data.points.map((p, i) => `${(shift + i * scale).toFixed(1)},${y(p[1] ?? 0).toFixed(1)}`);
  const bottoms = data.points
    .map((p, i) => `${(shift + i * scale).toFixed(1)},${(y(p[0] ?? 0) + 0.6).toFixed(1)}`)
    .reverse();
  return <polygon points={[...tops, ...bottoms].join(" ")} fill={colour} />;
}
