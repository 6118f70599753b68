// Level by frequency and time, on the same axis as the wave.
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { api, type Schemas } from "../../api/client";
import { ofTheSame } from "../../state/queries";

export function Spectrogram(p: {
  project: string;
  reference: string;
  from: number;
  to: number;
  width: number;
  height: number;
}) {
  const columns = Math.max(Math.min(Math.round(p.width), 1200), 1);
  const start = Math.max(p.from, 0);
  const canvas = useRef<HTMLCanvasElement>(null);
  const queryKey = ["spectrogram", p.project, p.reference, start, p.to, columns] as const;
  const { data, error } = useQuery({
    queryKey,
    queryFn: () => api.spectrogram(p.project, p.reference, start, p.to, columns),
    enabled: p.width > 0 && p.to > start,
    // Of the same recording; it is drawn where it belongs.
    placeholderData: ofTheSame<Schemas["Spectrogram"]>(queryKey, 3),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const theme = document.documentElement.dataset.theme;
  useEffect(() => {
    const el = canvas.current;
    const context = el?.getContext("2d");
    if (!el || !context || !data || data.hz.length === 0) return;
    void theme;
    const rows = data.hz.length;
    const bytes = Uint8Array.from(atob(data.levels), (c) => c.charCodeAt(0));
    el.width = data.columns;
    el.height = rows;
    const [low, high] = colours(el);
    const image = context.createImageData(data.columns, rows);
    for (let c = 0; c < data.columns; c++)
      for (let r = 0; r < rows; r++) {
        const level = ((bytes[c * rows + r] ?? 0) / 255) ** 1.4;
        const at = ((rows - 1 - r) * data.columns + c) * 4;
        for (let k = 0; k < 3; k++)
          image.data[at + k] = (low[k] ?? 0) + ((high[k] ?? 0) - (low[k] ?? 0)) * level;
        image.data[at + 3] = 255;
      }
    context.putImageData(image, 0, 0);
  }, [data, theme]);
  const hz = data?.hz ?? [];
  const y = (f: number) => {
    const top = hz.at(-1) ?? 18000;
    const bottom = hz[0] ?? 40;
    return p.height - (Math.log(f / bottom) / Math.log(top / bottom)) * p.height;
  };
  const perSecond = p.width / (p.to - p.from);
  const left = ((data?.from_s ?? start) - p.from) * perSecond;
  const drawn = ((data?.to_s ?? p.to) - (data?.from_s ?? start)) * perSecond;
  return (
    <div className="relative overflow-hidden" style={{ width: p.width, height: p.height }}>
      <canvas
        ref={canvas}
        role="img"
        aria-label="Spectrogram of the stretch on show"
        className="absolute top-0 h-full bg-base-200"
        style={{ left, width: drawn, imageRendering: "auto" }}
      />
      {!data && p.to > start && (
        <span className="absolute top-1/2 left-3 -translate-y-1/2 text-xs text-muted">
          {error ? `The spectrogram could not be read: ${error.message}` : "Reading the sound…"}
        </span>
      )}
      {hz.length > 0 &&
        [100, 1000, 10000].map((f) => (
          <span
            key={f}
            className="num absolute left-1 rounded bg-base-200/80 px-0.5 text-2xs leading-3 text-muted"
            style={{ top: y(f) - 6 }}
          >
            {f >= 1000 ? `${f / 1000}k` : f}
          </span>
        ))}
    </div>
  );
}

/** The colours of silence and of the loudest, from the theme. */
function colours(el: HTMLElement): [number[], number[]] {
  const style = getComputedStyle(el);
  const read = (name: string) => {
    const c = style.getPropertyValue(name).trim().replace("#", "");
    return [0, 2, 4].map((i) => Number.parseInt(c.slice(i, i + 2), 16));
  };
  return [read("--color-base-200"), read("--color-base-content")];
}
