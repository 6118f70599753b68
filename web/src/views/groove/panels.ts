// Which panels of the groove are open.
import { create } from "zustand";

export type Right = "feel" | "hits" | "row";
export type Below = "steps" | "between" | "variations" | "grooves" | "ideas" | "play";

interface Panels {
  right: Right;
  below: Below;
  /** The voice whose notes are open, or empty. */
  ladder: string;
  set: (p: Partial<Omit<Panels, "set">>) => void;
}

export const usePanels = create<Panels>((set) => ({
  right: "feel",
  below: "steps",
  ladder: "",
  set: (p) => set(p),
}));
