// Kits: taken whole from the library, while the groove plays; lanes follow by family.
import { useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { api } from "../../api/client";
import { Glyph } from "../../parts/family";
import { useProject } from "../../state/project";
import { useLibrary } from "../../state/queries";
import { useShaping } from "../../state/shaping";

export function Kits() {
  const library = useLibrary().data;
  const id = useProject((p) => p.state?.id) ?? "";
  const project = useProject((p) => p.state?.document.name) ?? "";
  const edit = useProject((p) => p.edit);
  const notify = useProject((p) => p.notify);
  const client = useQueryClient();
  const show = useShaping((s) => s.set);
  const [name, setName] = useState("");
  const save = async () => {
    try {
      await api.saveKit(id, name.trim() || project);
      notify(`The kit ${name.trim() || project} is in the library.`, "info");
      setName("");
      await client.invalidateQueries({ queryKey: ["library"] });
    } catch (e) {
      notify((e as Error).message);
    }
  };
  return (
    <section className="flex min-h-0 grow flex-col gap-2" aria-label="Kits">
      <div className="flex items-center gap-2">
        <p className="grow text-sm text-muted">
          The pattern stays and moves to drums of the same family. Hits without one are listed. Ctrl Z brings
          this kit back.
        </p>
        <input
          className="press h-8 w-[170px] cursor-text px-2 text-sm"
          aria-label="Name of the kit"
          placeholder={project}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="button" className="press" onClick={() => void save()}>
          Save this kit
        </button>
        <button type="button" className="press" onClick={() => show({ panel: "charts" })}>
          Done
        </button>
      </div>
      <ul className="grid grid-cols-2 gap-2 max-[1160px]:grid-cols-1">
        {(library?.kits ?? []).map((k) => (
          <li key={k.id} className="rowbox flex flex-col gap-1 px-3 py-2">
            <div className="flex items-center gap-2">
              <span className="grow font-semibold">{k.name}</span>
              <span className="text-xs text-muted">{k.own ? "mine" : k.tags.join(", ")}</span>
              {k.own && (
                <button
                  type="button"
                  className="cursor-pointer"
                  aria-label={`Remove the kit ${k.name} from the library`}
                  onClick={async () => {
                    await api.deleteItem(k.id).catch((e: Error) => notify(e.message));
                    await client.invalidateQueries({ queryKey: ["library"] });
                  }}
                >
                  <Trash2 size={13} />
                </button>
              )}
              <button
                type="button"
                className="press"
                aria-label={`Use the kit ${k.name}`}
                onClick={() => edit([{ op: "kit.set", voices: k.voices, title: k.name }])}
              >
                Use
              </button>
            </div>
            <div className="flex flex-wrap gap-x-3 gap-y-0.5 text-xs text-muted">
              {k.voices.map((v) => (
                <span key={v.id} className="flex items-center gap-1">
                  <Glyph family={v.family} size={13} /> {v.name}
                </span>
              ))}
            </div>
          </li>
        ))}
      </ul>
    </section>
  );
}
