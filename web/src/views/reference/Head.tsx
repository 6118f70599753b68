import type { Schemas, State } from "../../api/client";
import { BringButton } from "../../parts/Bring";
import { Menu, type MenuItem } from "../../parts/Menu";
import { useProject } from "../../state/project";

/** Which reference, and what can be done with it as a whole. more are things to do that are asked for less. */
export function Head(p: {
  state: State;
  reference: Schemas["Reference"];
  onLibrary: () => void;
  onTapIn: () => void;
  more: MenuItem[];
}) {
  const edit = useProject((s) => s.edit);
  return (
    <>
      <h1 className="sr-only">Reference</h1>
      <select
        aria-label="Reference"
        title="Which reference is the target"
        className="press w-[190px] min-w-[72px] shrink"
        value={p.reference.id}
        onChange={(e) => edit([{ op: "reference.activate", reference: e.target.value }])}
      >
        {p.state.document.references.map((r) => (
          <option key={r.id} value={r.id}>
            {r.name}
          </option>
        ))}
      </select>
      <BringButton text="Import" />
      <button
        type="button"
        className="press px-2.5 max-[1200px]:hidden"
        title="Saved feels and tones, and genres"
        onClick={p.onLibrary}
      >
        Library
      </button>
      <button
        type="button"
        className="press px-2.5 max-[1200px]:hidden"
        title="Play a groove on pads or keys and take it as reference"
        onClick={p.onTapIn}
      >
        Tap in
      </button>
      <Menu
        label="More"
        items={[
          { text: "Library", hint: "Saved feels and tones, and genres", narrow: true, onClick: p.onLibrary },
          { text: "Tap in", hint: "Play a groove on pads or keys", narrow: true, onClick: p.onTapIn },
          ...p.more,
          {
            text: "Remove this reference",
            hint: "Takes it out of the project; can be undone",
            onClick: () => edit([{ op: "reference.remove", reference: p.reference.id }]),
          },
        ]}
      />
    </>
  );
}
