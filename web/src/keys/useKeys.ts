// The keys of a place and what they do. Handlers are asked for by the list.
import { useEffect, useRef } from "react";
import { matchKeyBindingPress, parseKeybinding } from "tinykeys";
import { type Key, keyList, type Place } from "./list";

export type Handlers<P extends Place> = Record<keyof (typeof keyList)[P], (e: KeyboardEvent) => void>;

const parsed = new Map<Key, ReturnType<typeof parseKeybinding>[number][]>();

function pressesOf(k: Key) {
  let all = parsed.get(k);
  if (!all) {
    all = k.keys.flatMap((s) => parseKeybinding(s).slice(0, 1));
    parsed.set(k, all);
  }
  return all;
}

/** The name of the key of a place that was pressed, or null. */
export function keyOf<P extends Place>(place: P, e: KeyboardEvent): keyof (typeof keyList)[P] | null {
  for (const [name, key] of Object.entries(keyList[place]) as [keyof (typeof keyList)[P], Key][])
    if (pressesOf(key).some((press) => matchKeyBindingPress(e, press))) return name;
  return null;
}

/** Keys that play the rows while what is played is taken; they do nothing else then. */
export const pads: { armed: string[] } = { armed: [] };

const isPad = (e: KeyboardEvent) =>
  !e.ctrlKey && !e.metaKey && !e.altKey && pads.armed.includes(e.key.toLowerCase());

/** What got the focus by a click rather than by the keyboard: Space still plays then. */
let clicked: EventTarget | null = null;
if (typeof addEventListener === "function") {
  addEventListener(
    "pointerdown",
    (e) => {
      clicked = (e.target as HTMLElement).closest?.(pressed) ?? null;
    },
    true,
  );
  addEventListener(
    "keydown",
    (e) => {
      if (e.key === "Tab") clicked = null;
    },
    true,
  );
  addEventListener(
    "focusin",
    (e) => {
      if (e.target !== clicked) clicked = null;
    },
    true,
  );
}

/** What Space presses. */
const pressed = "button, summary, a[href], [role=button], [role=menuitem], [role=switch], [role=tab]";

const letters = "single-keys";

/** Whether keys that are a single sign work everywhere (WCAG 2.1.4 lets them be switched off). */
export const singleKeys = {
  on: () => localStorage.getItem(letters) !== "off",
  set: (on: boolean) => localStorage.setItem(letters, on ? "on" : "off"),
};

/** Whether a key is a single sign that has been switched off. */
const isOff = (e: KeyboardEvent) =>
  e.key.length === 1 && e.key !== " " && !e.ctrlKey && !e.metaKey && !e.altKey && !singleKeys.on();

/** Whether a key belongs to what has the focus: a button, a text, a list, a dialog. */
function isTaken(e: KeyboardEvent, key: Key): boolean {
  const el = e.target as HTMLElement;
  if (el.closest("dialog")) return true;
  const button = el.closest(pressed);
  if (e.key === " " && button && button !== clicked) return true;
  if (!/^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName)) return false;
  if (key.inNumbers)
    return el.tagName !== "SELECT" && !el.matches("[role=spinbutton], [type=checkbox], [type=radio]");
  return !el.matches("[type=checkbox], [type=radio]");
}

/** The keys of a place, wherever the focus is. */
export function useKeys<P extends Place>(place: P, handlers: Handlers<P>) {
  const latest = useRef(handlers);
  latest.current = handlers;
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      const name = keyOf(place, e);
      if (name === null || isPad(e) || isOff(e) || isTaken(e, keyList[place][name] as Key)) return;
      e.preventDefault();
      latest.current[name](e);
    };
    // In the capture phase, so that Space plays even where a button has the focus.
    addEventListener("keydown", onKey, true);
    return () => removeEventListener("keydown", onKey, true);
  }, [place]);
}

/** The keys of a place that has the focus, such as a row. */
export function rowKeys<P extends Place>(place: P, handlers: Handlers<P>) {
  return (e: React.KeyboardEvent) => {
    const name = keyOf(place, e.nativeEvent);
    if (name === null || isPad(e.nativeEvent)) return;
    e.preventDefault();
    e.stopPropagation();
    handlers[name](e.nativeEvent);
  };
}
