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

/** Canvases out of sight: they are painted when they come into sight, and at rest when they are near. */
const unseen = new WeakSet<Element>();
const far = new WeakSet<Element>();
const painters = new WeakMap<Element, () => void>();

/** Watches what comes out of a place, and paints what comes into it. */
function watcher(outside: WeakSet<Element>, margin: string) {
  if (typeof IntersectionObserver !== "function") return null;
  const seen: IntersectionObserverCallback = (entries) => {
    for (const { target, isIntersecting } of entries) {
      if (!isIntersecting) outside.add(target);
      else if (outside.delete(target)) painters.get(target)?.();
    }
  };
  return new IntersectionObserver(seen, {
    rootMargin: margin,
    scrollMargin: margin,
  } as IntersectionObserverInit);
}

const sight = watcher(unseen, "0px");
const near = watcher(far, "200px");

function watch(el: Element | null, paint: () => void) {
  if (!el) return;
  painters.set(el, paint);
  sight?.observe(el);
  near?.observe(el);
  return () => {
    sight?.unobserve(el);
    near?.unobserve(el);
  };
}

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
    if (!unseen.has(el)) {
      draw();
      return;
    }
    late.current = draw;
    if (far.has(el)) return;
    const timer = setTimeout(() => late.current?.(), rest);
    return () => clearTimeout(timer);
  }, [width, height, paint, now]);
  useEffect(() => watch(canvas.current, () => late.current?.()), [canvas]);
  return <canvas ref={canvas} style={{ width, height, display: "block" }} {...more} />;
}
