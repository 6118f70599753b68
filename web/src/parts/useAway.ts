import { type RefObject, useEffect } from "react";

/** Closes what is open when the pointer goes down elsewhere. */
export function useAway(box: RefObject<HTMLElement | null>, open: boolean, close: () => void) {
  useEffect(() => {
    if (!open) return;
    const away = (e: PointerEvent) => {
      if (!box.current?.contains(e.target as Node)) close();
    };
    addEventListener("pointerdown", away);
    return () => removeEventListener("pointerdown", away);
  }, [box, open, close]);
}
