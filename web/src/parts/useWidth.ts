import { useCallback, useState } from "react";

/**
 * The width of an element in pixels, followed as it changes: of whatever element the ref
 * is on, also where that goes and another one comes.
 */
export function useWidth<T extends HTMLElement>() {
  const [width, setWidth] = useState(0);
  const ref = useCallback((el: T | null) => {
    if (!el) return;
    const watch = new ResizeObserver(() => setWidth(el.clientWidth));
    watch.observe(el);
    setWidth(el.clientWidth);
    return () => watch.disconnect();
  }, []);
  return [ref, width] as const;
}
