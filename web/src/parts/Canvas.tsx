// A canvas that is painted when its painter changes, as sharp as the screen, in
// the colours of the page: those of the style sheet, by day and by night. One out of sight is
// painted when it comes near, or, if it is near, at rest.
import { useEffect, useLayoutEffect, useRef, useSyncExternalStore } from "react";
import { inSight, near } from "./sight";

/** The colour that a CSS value stands for now, such as var(--kick). */
export function colourOf(css: string): string {
  const name = /^var\((--[\w-]+)\)$/.exec(css)?.[1];
  if (!name) return css;
  const known = colours.get(name);
  if (known !== undefined) return known;
  const value = getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  colours.set(name, value);
  return value;
}

const colours = new Map<string, string>();

function watchTheme(changed: () => void) {
  const watch = new MutationObserver(() => {
    colours.clear();
    changed();
  });
  watch.observe(document.documentElement, { attributeFilter: ["data-theme"] });
  return () => watch.disconnect();
}

const theme = () => document.documentElement.dataset.theme ?? "day";

/** How long nothing more has changed before what is near is painted, ms. */
const rest = 120;

export type Paint = (pen: CanvasRenderingContext2D) => void;

export function Canvas({
  width,
  height,
  paint,
  ref,
  ...more
}: {
  width: number;
  height: number;
  paint: Paint;
  /** For who paints more often than the painter changes. */
  ref?: React.RefObject<HTMLCanvasElement | null>;
} & Omit<React.CanvasHTMLAttributes<HTMLCanvasElement>, "width" | "height">) {
  const own = useRef<HTMLCanvasElement>(null);
  const canvas = ref ?? own;
  const now = useSyncExternalStore(watchTheme, theme, () => "day");
  const late = useRef<(() => void) | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the theme changes what the painter's colours are
  useLayoutEffect(() => {
    const el = canvas.current;
    const pen = el?.getContext("2d");
    if (!el || !pen) return;
    const draw = () => {
      late.current = null;
      const sharp = devicePixelRatio || 1;
      if (el.width !== Math.round(width * sharp) || el.height !== Math.round(height * sharp)) {
        el.width = Math.round(width * sharp);
        el.height = Math.round(height * sharp);
      }
      pen.setTransform(sharp, 0, 0, sharp, 0, 0);
      pen.clearRect(0, 0, width, height);
      paint(pen);
    };
    if (inSight.has(el)) {
      draw();
      return;
    }
    late.current = draw;
    if (!near.has(el)) return;
    const timer = setTimeout(() => late.current?.(), rest);
    return () => clearTimeout(timer);
  }, [width, height, paint, now]);
  useEffect(() => {
    const el = canvas.current;
    if (!el) return;
    const ends = [inSight, near].map((s) => s.watch(el, (inside) => inside && late.current?.()));
    return () => {
      for (const end of ends) end();
    };
  }, [canvas]);
  return <canvas ref={canvas} style={{ width, height, display: "block" }} {...more} />;
}
