// The project's grooves, A, B, C…: which one plays, another copy, what it is called.
import { Plus } from "lucide-react";
import type { State } from "../../api/client";
import { Menu } from "../../parts/Menu";
import { TextBox } from "../../parts/TextBox";
import { useProject } from "../../state/project";

export function VariationBar({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const { variations, variation } = state.document;
  const now = variations.find((v) => v.id === variation);
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {variations.map((v) => (
        <button
          key={v.id}
          type="button"
          className={`press px-2.5 ${v.id === variation ? "border-primary! bg-row!" : ""}`}
          aria-pressed={v.id === variation}
          title={v.id === variation ? "This one plays" : "Plays from the next bar on"}
          onClick={() => v.id !== variation && edit([{ op: "variation.use", variation: v.id }])}
        >
          <span className="font-semibold">{v.id.toUpperCase()}</span>
          {v.name && <span className="max-w-[110px] truncate">{v.name}</span>}
        </button>
      ))}
      <button
        type="button"
        className="press px-2"
        aria-label="Another variation"
        title="Keeps this groove and goes on with a copy"
        disabled={variations.length >= 8}
        onClick={() => edit([{ op: "variation.add" }])}
      >
        <Plus size={14} />
      </button>
      <TextBox
        label={`Name of variation ${variation.toUpperCase()}`}
        value={now?.name ?? ""}
        width={104}
        placeholder="name it"
        onCommit={(name) => edit([{ op: "variation.rename", variation, name: name.slice(0, 40) }])}
      />
      {variations.length > 1 && (
        <Menu
          label="Remove"
          bare
          face={<span className="text-[12px] text-muted underline decoration-dotted">remove…</span>}
          name="Remove a variation"
          items={variations
            .filter((v) => v.id !== variation)
            .map((v) => ({
              text: `Remove ${v.id.toUpperCase()}`,
              hint: v.name,
              onClick: () => edit([{ op: "variation.remove", variation: v.id }]),
            }))}
        />
      )}
    </div>
  );
}
