// What builds a whole part of the mix in one action, all of it then open to be changed.
import { Blocks } from "lucide-react";
import type { State } from "../../api/client";
import { Menu } from "../../parts/Menu";
import { useProject } from "../../state/project";
import { useChosen } from "./rows";

export function Build({ state, onTake }: { state: State; onTake: () => void }) {
  const edit = useProject((s) => s.edit);
  const chosen = useChosen();
  const voices = state.document.kit.voices;
  const room = state.document.mix.buses.length;
  const kick = voices.find((v) => v.id === chosen.row) ?? voices.find((v) => v.family === "kick");
  const first = voices.find((v) => v.family === "kick");
  const bass = voices.find((v) => v.family === "808");
  return (
    <Menu
      label="Build"
      name="Build a part of the mix"
      right
      face={
        <span className="flex items-center gap-1">
          <Blocks size={14} /> Build
        </span>
      }
      items={[
        {
          text: "Overheads and room",
          hint: "Two buses that every drum sends to, set by distance",
          disabled: room > 14 || voices.length === 0,
          onClick: () => edit([{ op: "mix.rooms" }]),
        },
        {
          text: `A rumble of ${kick?.name ?? "the kick"}`,
          hint: "A long dark room of it, ducked on quarters",
          disabled: !kick || room > 15,
          onClick: () => kick && edit([{ op: "mix.rumble", voice: kick.id }]),
        },
        {
          text: "Complementary EQ for kick and 808",
          hint: "Where one is boosted, the other is cut",
          disabled: !first || !bass,
          onClick: () => first && bass && edit([{ op: "mix.complement", first: first.id, second: bass.id }]),
        },
        {
          text: "From another project…",
          hint: "A row, a bus with its rows, or the whole mix",
          onClick: onTake,
        },
      ]}
    />
  );
}
