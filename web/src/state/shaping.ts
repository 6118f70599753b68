// What of a sound is being shaped: the layer, and the part, effect or more of it.
import { create } from "zustand";

/** "part:body", "effect:drive1", "curve:curve1", "layer" or "voice". */
export type Shaped = string;

interface Shaping {
  layer: string;
  item: Shaped;
  /** What stands in place of the charts. */
  panel: "charts" | "find" | "fit" | "many" | "kits";
  /** How much longer than usual the start of the sound is drawn, and heard. */
  slow: number;
  /** The unit of the time axis. */
  unit: "ms" | "beats";
  set: (s: Partial<Omit<Shaping, "set">>) => void;
}

export const useShaping = create<Shaping>((set) => ({
  layer: "",
  item: "part:body",
  panel: "charts",
  slow: 1,
  unit: "ms",
  set: (s) => set(s),
}));
