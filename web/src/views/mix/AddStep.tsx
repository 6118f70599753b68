// The list of steps that may be added to a chain, by what they are for.
import { Plus } from "lucide-react";
import type { Info } from "../../api/client";
import { Menu } from "../../parts/Menu";

const groups: [string, string[]][] = [
  ["Tone", ["eq8", "filter", "comb", "shift", "octave"]],
  ["Level", ["compressor", "gate", "transient", "transient3", "bands", "duck"]],
  ["Grit", ["drive", "tape", "worn", "crush", "clip", "limit", "ceiling"]],
  ["Space", ["reverb", "echo", "width", "tremolo", "trim", "bed"]],
  ["Paths", ["parallel", "split", "split3"]],
];

const hints: Record<string, string> = {
  eq8: "Cuts, shelves, bells; a band may wait for a level",
  filter: "One swept filter with resonance",
  comb: "A string or a tube",
  shift: "Every partial by the same Hz",
  octave: "A sine an octave below",
  compressor: "By its own sound or by another voice",
  gate: "Takes away what is soft",
  transient: "Attack and sustain by themselves",
  transient3: "In lows, mids and highs",
  bands: "Three compressors, down and up",
  duck: "By a shape in the song's time",
  drive: "Soft, hard, even, folded, diode",
  tape: "Saturation, head bump, wow",
  worn: "Narrow, wavering, crackling",
  crush: "Fewer bits, another rate",
  clip: "Cuts what is beyond a ceiling",
  limit: "Keeps below a ceiling",
  ceiling: "Keeps the true peak below a ceiling",
  reverb: "A room",
  echo: "Delay in time or tempo",
  width: "Apart, detuned; lows in the middle",
  tremolo: "Level or side, in time",
  trim: "Level, polarity, channels",
  bed: "Hiss, crackle, hum, room",
  parallel: "A copy with its own chain",
  split: "Lows and highs apart",
  split3: "Lows, mids, highs apart",
};

export function AddStep(p: { info: Info; name: string; disabled?: boolean; onAdd: (kind: string) => void }) {
  const order = groups.flatMap(([, kinds]) => kinds);
  const label = (id: string) => p.info.steps.find((k) => k.id === id)?.label ?? id;
  return (
    <Menu
      label="Step"
      name={p.name}
      title="Add a step"
      columns
      face={<Plus size={14} />}
      items={order.map((id) => ({
        text: label(id),
        hint: hints[id] ?? "",
        disabled: p.disabled ?? false,
        onClick: () => p.onAdd(id),
      }))}
    />
  );
}
