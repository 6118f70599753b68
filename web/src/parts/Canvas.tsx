// A canvas that is painted when its painter changes, as sharp as the screen, in
// the colours of the page: those of the style sheet, by day and by night.
import { useEffect, useLayoutEffect, useRef, useSyncExternalStore } from "react";

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

/** Canvases far from what is in sight: they are painted when they come near. */
const far = new WeakSet<Element>();
const comesNear = new WeakMap<Element, () => void>();

const near =
  typeof IntersectionObserver === "function"
    ? new IntersectionObserver(
        (entries) => {
          for (const { target, isIntersecting } of entries) {
            if (!isIntersecting) far.add(target);
            else if (far.delete(target)) comesNear.get(target)?.();
          }
        },
        { rootMargin: "200px", scrollMargin: "200px" } as IntersectionObserverInit,
      )
    : null;

function watchNear(el: Element | null, paint: () => void) {
  if (!el || !near) return;
  comesNear.set(el, paint);
  near.observe(el);
  return () => near.unobserve(el);
}

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
    if (far.has(el)) late.current = draw;
    else draw();
  }, [width, height, paint, now]);
  useEffect(() => watchNear(canvas.current, () => late.current?.()), [canvas]);
  return <canvas ref={canvas} style={{ width, height, display: "block" }} {...more} />;
}
