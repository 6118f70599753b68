// The project's grooves, A, B, C…: which one plays, another copy, what it is called.
import { Plus } from "lucide-react";
import type { State } from "../../api/client";
import { Menu } from "../../parts/Menu";
import { TextBox } from "../../parts/TextBox";
import { useProject } from "../../state/project";
import { go } from "../../state/route";

/** From how many variations on the rest stand in a list. */
const most = 10;

export function VariationBar({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const { variations, variation } = state.document;
  const now = variations.find((v) => v.id === variation);
  // Grooves of single places of the arrangement are not of this list.
  const named = variations.filter((v) => !v.here);
  const shown = named.length > most ? named.filter((v, i) => i < most - 1 || v.id === variation) : named;
  const use = (id: string) => id !== variation && edit([{ op: "variation.use", variation: id }]);
  return (
    <div className="flex flex-wrap items-center gap-1.5">
      {now?.here && (
        <span className="flex items-center gap-1.5 rounded-lg border border-primary bg-row px-2.5 py-1 text-sm">
          <span className="font-semibold">{now.name}</span>
          <span className="text-muted">for here only</span>
          <button
            type="button"
            className="cursor-pointer text-xs underline decoration-dotted"
            onClick={() => go(state.id, "arrange")}
          >
            back to Arrange
          </button>
        </span>
      )}
      {shown.map((v) => (
        <button
          key={v.id}
          type="button"
          className={`press px-2.5 ${v.id === variation ? "border-primary! bg-row!" : ""}`}
          aria-pressed={v.id === variation}
          title={v.id === variation ? "This one plays" : "Plays from the next bar on"}
          onClick={() => use(v.id)}
        >
          <span className="font-semibold">{v.id.toUpperCase()}</span>
          {v.name && <span className="max-w-[110px] truncate">{v.name}</span>}
        </button>
      ))}
      {shown.length < named.length && (
        <select
          className="press h-8 px-1.5 text-xs"
          aria-label="More variations"
          value=""
          onChange={(e) => use(e.target.value)}
        >
          <option value="">{named.length - shown.length} more…</option>
          {named
            .filter((v) => !shown.includes(v))
            .map((v) => (
              <option key={v.id} value={v.id}>
                {v.id.toUpperCase()} {v.name}
              </option>
            ))}
        </select>
      )}
      <button
        type="button"
        className="press px-2"
        aria-label="Another variation"
        title="Keeps this groove and goes on with a copy"
        disabled={named.length >= 64}
        onClick={() => edit([{ op: "variation.add" }])}
      >
        <Plus size={14} />
      </button>
      {!now?.here && (
        <TextBox
          label={`Name of variation ${variation.toUpperCase()}`}
          value={now?.name ?? ""}
          width={104}
          placeholder="name it"
          onCommit={(name) => edit([{ op: "variation.rename", variation, name: name.slice(0, 40) }])}
        />
      )}
      {named.length > 1 && (
        <Menu
          label="Remove"
          bare
          face={<span className="text-xs text-muted underline decoration-dotted">remove…</span>}
          name="Remove a variation"
          items={named
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
