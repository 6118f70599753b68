// One way of dragging for the whole interface: the pointer is captured, and a
// drag ends either by letting go or by being cancelled (Escape, a second
// finger, the system, or a button that was let go unseen).
import { useEffect, useRef } from "react";

export interface Dragging<T> {
  /** Begins a drag; null for none. What it returns is given to the others. */
  start: (e: React.PointerEvent) => T | null;
  move: (drag: T, e: React.PointerEvent) => void;
  drop: (drag: T, e: React.PointerEvent) => void;
  /** Takes back what move did. */
  cancel: (drag: T) => void;
}

export function useDrag<T>(handlers: Dragging<T>) {
  const now = useRef<{ drag: T; id: number; on: Element } | null>(null);
  const latest = useRef(handlers);
  latest.current = handlers;
  const cancel = useRef(() => {
    const d = now.current;
    if (!d) return;
    now.current = null;
    if (d.on.hasPointerCapture(d.id)) d.on.releasePointerCapture(d.id);
    latest.current.cancel(d.drag);
  });
  useEffect(() => {
    const end = cancel.current;
    const onKey = (e: KeyboardEvent) => {
      if (e.key !== "Escape" || !now.current) return;
      e.stopPropagation();
      e.preventDefault();
      end();
    };
    addEventListener("keydown", onKey, true);
    return () => {
      removeEventListener("keydown", onKey, true);
      end();
    };
  }, []);
  return {
    onPointerDown: (e: React.PointerEvent) => {
      if (now.current || e.button !== 0) return;
      const drag = latest.current.start(e);
      if (drag === null) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      now.current = { drag, id: e.pointerId, on: e.currentTarget };
    },
    onPointerMove: (e: React.PointerEvent) => {
      const d = now.current;
      if (!d || d.id !== e.pointerId) return;
      if ((e.buttons & 1) === 0) cancel.current();
      else latest.current.move(d.drag, e);
    },
    onPointerUp: (e: React.PointerEvent) => {
      const d = now.current;
      if (!d || d.id !== e.pointerId) return;
      now.current = null;
      latest.current.drop(d.drag, e);
    },
    onPointerCancel: () => cancel.current(),
    onLostPointerCapture: () => cancel.current(),
  };
}
