// What is chosen in Arrange: kept while other views are open.
import { create } from "zustand";

export type Panel = "section" | "over" | "put" | "draw" | "whole" | "backing";

interface Chosen {
  /** The project that it is of: another one begins anew. */
  project: string;
  /** The place that things are put at and that playing begins from, ticks of the piece. */
  cursor: number;
  /** A stretch that was chosen, ticks. */
  range: { from: number; to: number } | null;
  /** The id of the section that is shown at the right. */
  section: string;
  /** Something that lies on a section. */
  over: { section: string; id: string } | null;
  panel: Panel;
  /** The backing that is shown at the right. */
  backing: string;
  /** What is painted and placed keeps to: bars, beats or sixteenths. */
  snap: Snap;
  /** The addresses whose lanes are open though nothing is drawn in them yet. */
  lanes: string[];
  set: (c: Partial<Omit<Chosen, "set">>) => void;
}

export type Snap = "bar" | "beat" | "step";

const none = {
  cursor: 0,
  range: null,
  section: "",
  over: null,
  panel: "section" as Panel,
  backing: "",
  lanes: [],
};

export const useArrange = create<Chosen>((set) => ({ project: "", snap: "bar", ...none, set }));

/** Begins anew where another project is opened. */
export function chooseIn(project: string) {
  if (useArrange.getState().project !== project) useArrange.setState({ ...none, project });
}
