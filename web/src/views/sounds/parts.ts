// The parts of a recipe as the screen names and colours them.
import type { Layer, Schemas } from "../../api/client";

export type Recipe = Schemas["Recipe"];
export type Modulation = Schemas["Modulation"];
export type Effect = Schemas["Effect"];
/** A curve over time, from 0 to 1. */
export type Curve = Schemas["Curve"];

export const partIDs = ["body", "sub", "snap", "noise", "metal", "ring"] as const;
export type PartID = (typeof partIDs)[number];

export const partNames: Record<string, string> = {
  body: "Body",
  sub: "Sub",
  snap: "Snap",
  noise: "Noise",
  metal: "Metal",
  ring: "Resonator",
};

export const partHints: Record<string, string> = {
  body: "A tone whose pitch falls",
  sub: "A sine under the body, slow to let the snap through",
  snap: "The beater or stick",
  noise: "Wires, air, and claps made of bursts",
  metal: "Inharmonic tones: hats, cymbals, bells",
  ring: "A struck membrane or bar, by its physics",
};

export const partColour: Record<string, string> = {
  body: "var(--kick)",
  sub: "var(--clap)",
  snap: "var(--hat)",
  noise: "var(--snare)",
  metal: "var(--ride)",
  ring: "var(--tom)",
};

/** Where a curve drives a number, or undefined. */
export const drivenBy = (r: Recipe, at: string): Modulation | undefined =>
  r.modulations.find((m) => m.at === at && r.curves.some((c) => c.id === m.by));

/** Whether a part sounds at any time. */
export const partOn = (r: Recipe, part: PartID, silent: number): boolean =>
  r[part].level_db > silent || drivenBy(r, `${part}.level_db`) !== undefined;

/** What gives a layer its sound, in a word. */
export const layerKind = (l: Layer): string =>
  l.recipe ? "recipe" : l.rumble ? "rumble" : l.recording?.gate ? "gated recording" : "recording";

/** How a button looks that is one of a list to choose from. */
export const chip = (on: boolean) => `press h-7 px-2 text-xs ${on ? "bg-row!" : ""}`;

/** A list with something put in, or taken out where it is there. */
export const flip = (list: string[], p: string) =>
  list.includes(p) ? list.filter((x) => x !== p) : [...list, p];
