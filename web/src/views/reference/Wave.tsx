import { useQuery } from "@tanstack/react-query";
import { api, type Peaks } from "../../api/client";
import { ofTheSame } from "../../state/queries";

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
  const queryKey = ["wave", project, reference, start, to, points] as const;
  const { data, error } = useQuery({
    queryKey,
    queryFn: () => api.wave(project, reference, start, to, points),
    enabled: width > 0 && to > start,
    // Of the same recording; it is drawn where it belongs.
    placeholderData: ofTheSame<Peaks>(queryKey, 3),
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
  const shift = ((data.from_s - from) / (to - from)) * width;
  const scale = (((data.to_s - data.from_s) / (to - from)) * width) / data.points.length;
  const y = (v: number) => height / 2 - (v * height) / 2.1;
  const tops = data.points.map((p, i) => `${(shift + i * scale).toFixed(1)},${y(p[1] ?? 0).toFixed(1)}`);
  const bottoms = data.points
    .map((p, i) => `${(shift + i * scale).toFixed(1)},${(y(p[0] ?? 0) + 0.6).toFixed(1)}`)
    .reverse();
  return <polygon points={[...tops, ...bottoms].join(" ")} fill={colour} />;
}
