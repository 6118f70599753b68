// Chains of the library, named by purpose: heard in place as one moves through them.
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { monitor } from "../../live/monitor";
import { useProject } from "../../state/project";
import { useChains } from "../../state/queries";
import type { MixRow } from "./rows";

export function ChainLibrary({ row }: { row: MixRow }) {
  const edit = useProject((s) => s.edit);
  const notify = useProject((s) => s.notify);
  const id = useProject((s) => s.state?.id) ?? "";
  const client = useQueryClient();
  const chains = useChains().data?.chains ?? [];
  const [words, setWords] = useState(
    row.kind === "voice" ? familyWord(row.family) : row.kind === "out" ? "output" : "bus",
  );
  const [name, setName] = useState("");
  const found = chains.filter((c) => {
    const text = `${c.name} ${c.tags.join(" ")}`.toLowerCase();
    return words
      .toLowerCase()
      .split(/\s+/)
      .every((w) => text.includes(w));
  });
  return (
    <section aria-label="Library of chains" className="flex flex-col gap-1 border-t border-line pt-2">
      <h2 className="text-lg">Chains for {row.name}</h2>
      <input
        className="press h-7 cursor-text px-2 text-xs"
        aria-label="Search chains"
        placeholder="purpose, drum"
        value={words}
        onChange={(e) => setWords(e.target.value)}
      />
      <ul className="flex max-h-[230px] flex-col gap-0.5 overflow-y-auto" aria-label="Chains">
        {found.map((c) => (
          <li key={c.id} className="flex items-center gap-1 text-xs">
            <button
              type="button"
              className="grow cursor-pointer truncate rounded px-1.5 py-0.5 text-left hover:bg-base-300"
              title={`${c.effects.length} ${c.effects.length === 1 ? "effect" : "effects"}; takes the place of what is there`}
              onClick={() => {
                edit([{ op: "chain.set", row: row.row, effects: c.effects, title: c.name }]);
                if (row.kind === "voice") void monitor.strike(row.row);
              }}
            >
              {c.name}
              {c.own && <span className="text-muted"> (saved by you)</span>}
            </button>
            <button
              type="button"
              className="cursor-pointer px-1 text-2xs text-muted underline decoration-dotted"
              aria-label={`${c.name} after the present effects`}
              onClick={() =>
                edit([{ op: "chain.set", row: row.row, effects: c.effects, append: true, title: c.name }])
              }
            >
              behind
            </button>
            {c.own && (
              <button
                type="button"
                className="cursor-pointer px-1 text-2xs text-muted underline decoration-dotted"
                aria-label={`Remove ${c.name} from the library`}
                onClick={async () => {
                  await api.deleteItem(c.id).catch((e: Error) => notify(e.message));
                  await client.invalidateQueries({ queryKey: ["chains"] });
                }}
              >
                delete
              </button>
            )}
          </li>
        ))}
        {found.length === 0 && <li className="text-xs text-muted">No match.</li>}
      </ul>
      <div className="flex gap-1">
        <input
          className="press h-7 min-w-0 grow cursor-text px-2 text-xs"
          aria-label="Name of this chain"
          placeholder="name of this chain"
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          disabled={name.trim() === "" || row.chain.length === 0}
          onClick={async () => {
            try {
              const saved = await api.saveChain(id, row.row, name.trim());
              await client.invalidateQueries({ queryKey: ["chains"] });
              notify(`“${saved.name}” is in the library now.`, "info");
              setName("");
            } catch (e) {
              notify((e as Error).message);
            }
          }}
        >
          Save
        </button>
      </div>
    </section>
  );
}

const familyWord = (family: string) =>
  ({ hat_closed: "hat", hat_open: "hat", conga: "conga", ride: "cymbals", crash: "cymbals" })[family] ??
  (["kick", "snare", "clap", "tom", "shaker", "808"].includes(family) ? family : "percussion");
