// What an effect does to its own row's sound, small on its card and large at the right.
import type { Schemas } from "../../api/client";

type Picture = Schemas["Picture"];

const decades = [50, 100, 200, 500, 1000, 2000, 5000, 10000];
const xOf = (hz: number, width: number) => (Math.log2(Math.max(hz, 20) / 20) / Math.log2(20000 / 20)) * width;

/** Levels over time as a closed shape over its foot. */
function shape(values: number[], width: number, height: number, most: number) {
  const x = (i: number) => ((i / Math.max(values.length - 1, 1)) * width).toFixed(1);
  // By the square root, so that tails are seen.
  const y = (v: number) => (height - Math.sqrt(Math.min(v / most, 1)) * (height - 3)).toFixed(1);
  return `M0 ${height}${values.map((v, i) => `L${x(i)} ${y(v)}`).join("")}L${width} ${height}Z`;
}

const line = (points: [number, number][]) =>
  points.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");

/** The picture of an effect. With large it has an axis. */
export function EffectPicture(p: {
  picture: Picture | undefined;
  width: number;
  height: number;
  colour: string;
  large?: boolean;
  off?: boolean;
}) {
  const { picture, width: w, height: h, colour } = p;
  const thin = p.large ? 2 : 1.6;
  if (!picture)
    return (
      <svg width={w} height={h} role="img" aria-label="not measured yet" className="opacity-40">
        <line x1={0} x2={w} y1={h / 2} y2={h / 2} stroke="var(--line-strong)" strokeDasharray="3 4" />
      </svg>
    );
  const label = `${picture.words[0]}, ${picture.words[1]}`;
  return (
    <svg width={w} height={h} role="img" aria-label={label} opacity={p.off ? 0.3 : 1} className="block">
      {picture.shows === "spectrum" && <Spectrum {...p} picture={picture} thin={thin} />}
      {picture.shows === "time" && <Time {...p} picture={picture} thin={thin} />}
      {picture.shows === "transfer" && (
        <>
          <line x1={0} y1={h} x2={w} y2={0} stroke="var(--line-strong)" strokeWidth={1} />
          <line x1={w / 2} y1={0} x2={w / 2} y2={h} stroke="var(--line)" />
          <line x1={0} y1={h / 2} x2={w} y2={h / 2} stroke="var(--line)" />
          <path
            d={line(
              picture.transfer.map(([a = 0, b = 0]) => [(w * (a + 1)) / 2, h / 2 - (b * (h - 4)) / 2.4]),
            )}
            fill="none"
            stroke={colour}
            strokeWidth={thin}
          />
        </>
      )}
    </svg>
  );
}

function Spectrum({
  picture,
  width: w,
  height: h,
  colour,
  large,
  thin,
}: {
  picture: Picture;
  width: number;
  height: number;
  colour: string;
  large?: boolean;
  thin: number;
}) {
  const range = large ? 24 : 18;
  const place = (hz: number, by: number): [number, number] => [
    xOf(hz, w),
    h / 2 - (Math.min(Math.max(by, -range), range) / range) * (h / 2 - 2),
  ];
  // What it does to any sound where it can be known, else what it did to this one.
  const changed =
    picture.response.length > 0
      ? picture.response.map(([hz = 20, by = 0]) => place(hz, by))
      : picture.hz.map((hz, i) =>
          place(hz, (picture.spectrum_after_db[i] ?? -120) - (picture.spectrum_before_db[i] ?? -120)),
        );
  const top = Math.max(...picture.spectrum_before_db, -60);
  const before = picture.hz.map((hz, i): [number, number] => [
    xOf(hz, w),
    h - Math.max(((picture.spectrum_before_db[i] ?? -120) - top + 48) / 48, 0) * (h - 4),
  ]);
  return (
    <>
      {before.length > 0 && (
        <path
          d={`${line(before)}L${before.at(-1)?.[0] ?? w} ${h}L${before[0]?.[0] ?? 0} ${h}Z`}
          fill="var(--line)"
          opacity={0.7}
        />
      )}
      <line x1={0} x2={w} y1={h / 2} y2={h / 2} stroke="var(--line-strong)" strokeWidth={1} />
      {large &&
        decades.map((hz) => (
          <g key={hz}>
            <line x1={xOf(hz, w)} x2={xOf(hz, w)} y1={0} y2={h} stroke="var(--line)" />
            {hz !== 50 && hz !== 200 && hz !== 2000 && (
              <text x={xOf(hz, w) + 2} y={h - 3}>
                {hz >= 1000 ? `${hz / 1000}k` : hz}
              </text>
            )}
          </g>
        ))}
      <path d={line(changed)} fill="none" stroke={colour} strokeWidth={thin} strokeLinejoin="round" />
    </>
  );
}

function Time({
  picture,
  width: w,
  height: h,
  colour,
  large,
  thin,
}: {
  picture: Picture;
  width: number;
  height: number;
  colour: string;
  large?: boolean;
  thin: number;
}) {
  const most = Math.max(...picture.before, ...picture.after, 1e-4);
  const range = large ? 24 : 18;
  const taken = picture.taken_db.map((db, i): [number, number] => [
    (i / Math.max(picture.taken_db.length - 1, 1)) * w,
    2 + (Math.min(Math.max(-db, 0), range) / range) * (h - 4),
  ]);
  return (
    <>
      <path d={shape(picture.before, w, h, most)} fill="var(--line-strong)" opacity={0.45} />
      <path
        d={shape(picture.after, w, h, most)}
        fill={colour}
        opacity={0.4}
        stroke={colour}
        strokeWidth={1}
      />
      {taken.some(([, y]) => y > 4) && (
        <path d={line(taken)} fill="none" stroke="var(--color-primary)" strokeWidth={thin} />
      )}
    </>
  );
}
