import type { Voice, VoiceSound } from "../../api/client";
import { hue } from "../../parts/family";
import { Chart } from "./Chart";
import type { Time } from "./chartAxes";

export function Wave({
  voice,
  sound,
  time,
  width,
}: {
  voice: Voice;
  sound: VoiceSound;
  time: Time;
  width: number;
}) {
  const height = 88;
  const shape = (points: number[][], spanMS: number) => {
    const peak = Math.max(...points.map((p) => Math.max(Math.abs(p[0] ?? 0), Math.abs(p[1] ?? 0))), 1e-6);
    const y = (s: number) => height / 2 - (s / peak) * (height / 2 - 6);
    const x = (i: number) => time.x((i / points.length) * spanMS);
    const inside = points.filter((_, i) => (i / points.length) * spanMS <= time.span);
    return [
      ...inside.map((p, i) => `${x(i).toFixed(1)},${y(p[1] ?? 0).toFixed(1)}`),
      ...inside.map((p, i) => `${x(i).toFixed(1)},${(y(p[0] ?? 0) + 0.8).toFixed(1)}`).reverse(),
    ].join(" ");
  };
  const aim = sound.target;
  return (
    <Chart
      title="Wave"
      sub={aim ? <span className="text-ref">outlined: the target</span> : "one hit"}
      width={width}
      height={height}
      ticks={[]}
      lines={[]}
      handles={[]}
    >
      <line x1={0} x2={time.inner} y1={height / 2} y2={height / 2} stroke="var(--line)" />
      <polygon points={shape(sound.wave.points, time.span)} fill={hue(voice.family)} />
      {aim && (
        <polygon
          points={shape(aim.wave.points, (aim.wave.to_s - aim.wave.from_s) * 1000)}
          fill="none"
          stroke="var(--ref)"
          strokeDasharray="3 2"
        />
      )}
    </Chart>
  );
}
