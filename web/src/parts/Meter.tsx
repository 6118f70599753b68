// The output meter. Its bars are a canvas, which the browser shows without drawing the page anew.
import { useCallback, useRef } from "react";
import { monitor } from "../live/monitor";
import { textEvery, useEvery, write } from "../live/useEvery";
import { Canvas, colourOf } from "./Canvas";
import { num } from "./format";

const floor = -48; // dB, the left end of the meter
const barsEvery = 50; // ms; each time the page is put together anew
const falls = 0.045; // dB a millisecond
const width = 96;
const height = 20;
const thick = 8;

/** What the meter shows, and how soon a change is heard. */
const meterHint = (reach: number) =>
  `Output: sample peak and momentary loudness. What lies above 0 dBFS is limited before you hear it.${
    reach > 0 ? ` A change is made ${num(reach, 0)} ms ahead of what you hear` : ""
  }`;

/** What the meter shows of peaks as they come: bars fall slowly, the highest peak stays for a while. */
export class Held {
  /** dB, left and right. */
  readonly bars: [number, number] = [floor, floor];
  /** dBFS. */
  peak = Number.NEGATIVE_INFINITY;
  private until = 0;
  private last = 0;

  /** Takes linear peaks of left and right. */
  take(peaks: readonly [number, number], now: number) {
    const db = peaks.map((x) => (x > 0 ? 20 * Math.log10(x) : Number.NEGATIVE_INFINITY)) as [number, number];
    const by = (now - this.last) * falls;
    this.last = now;
    for (const i of [0, 1] as const) this.bars[i] = Math.max(db[i], this.bars[i] - by, floor);
    const top = Math.max(...db);
    if (top <= this.peak && now <= this.until) return;
    this.peak = top;
    this.until = now + 1500;
  }

  /** The sound is over. */
  rest() {
    this.bars.fill(floor);
    this.peak = Number.NEGATIVE_INFINITY;
  }
}

export function Meter() {
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const peak = useRef<HTMLSpanElement>(null);
  const loud = useRef<HTMLSpanElement>(null);
  const held = useRef(new Held());
  const paint = useCallback((pen: CanvasRenderingContext2D) => {
    const bar = (y: number, part: number, colour: string) => {
      pen.fillStyle = colourOf(colour);
      pen.beginPath();
      pen.roundRect(0, y, width * part, thick, 4);
      pen.fill();
    };
    pen.clearRect(0, 0, width, height);
    held.current.bars.forEach((db, i) => {
      const y = i * (height - thick);
      bar(y, 1, "var(--color-base-300)");
      if (db > floor) bar(y, 1 - db / floor, "var(--color-info)");
    });
  }, []);
  useEvery(barsEvery, (silent) => {
    held.current.take(monitor.takePeaks(), performance.now());
    if (silent) held.current.rest();
    const pen = canvas.current?.getContext("2d");
    if (pen) paint(pen);
  });
  useEvery(textEvery, () => {
    const top = held.current.peak;
    const r = monitor.report;
    write(peak.current, top > -120 ? `${num(top)} dBFS` : "– dBFS");
    if (peak.current) peak.current.style.color = top > 0 ? "var(--color-error)" : "";
    write(loud.current, r.held ? "limited" : r.loudness > -70 ? `${num(r.loudness)} LUFS` : "– LUFS");
    const hint = meterHint(r.reach);
    if (box.current && box.current.title !== hint) box.current.title = hint;
  });
  return (
    <div className="flex items-center gap-4" ref={box} title={meterHint(0)} data-testid="meter">
      <Canvas ref={canvas} width={width} height={height} paint={paint} aria-hidden="true" />
      <div className="num flex w-[92px] flex-col text-right text-xs">
        <span ref={peak}>– dBFS</span>
        <span ref={loud} className="text-muted">
          – LUFS
        </span>
      </div>
    </div>
  );
}
