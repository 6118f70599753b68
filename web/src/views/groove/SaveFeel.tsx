// A feel saved in the library.
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../../api/client";
import { useProject } from "../../state/project";

/** Keeps the groove's own feel in the library. */
export function SaveFeel({ project }: { project: string }) {
  const notify = useProject((s) => s.notify);
  const queries = useQueryClient();
  const [name, setName] = useState("");
  return (
    <div className="mt-2 flex gap-1">
      <input
        className="press h-7 min-w-0 grow cursor-text px-2 text-xs"
        aria-label="Name of this feel"
        placeholder="name of this feel"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <button
        type="button"
        className="press h-7 px-2 text-xs"
        disabled={name.trim() === ""}
        onClick={async () => {
          try {
            const saved = await api.saveFeel(project, name.trim());
            await queries.invalidateQueries({ queryKey: ["profiles"] });
            notify(`“${saved.name}” is in the library now.`, "info");
            setName("");
          } catch (e) {
            notify((e as Error).message);
          }
        }}
      >
        Save feel
      </button>
    </div>
  );
}
