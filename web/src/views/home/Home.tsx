import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import { api } from "../../api/client";
import { useProject } from "../../state/project";
import { go } from "../../state/route";

export function Home() {
  const { data, error } = useQuery({
    queryKey: ["projects"],
    queryFn: api.projects,
    refetchOnMount: "always",
  });
  const client = useQueryClient();
  const tell = useProject((p) => p.tell);
  const [name, setName] = useState("");
  const [asking, setAsking] = useState("");
  const create = async () => {
    try {
      const state = await api.create(name.trim() || "Untitled");
      go(state.id, "reference");
    } catch (e) {
      tell(e instanceof Error ? e.message : "The project could not be made.");
    }
  };
  const remove = async (id: string) => {
    try {
      await api.remove(id);
    } catch (e) {
      tell(e instanceof Error ? e.message : "The project could not be deleted.");
    }
    setAsking("");
    await client.invalidateQueries({ queryKey: ["projects"] });
  };
  return (
    <main className="h-full overflow-y-auto">
      <div className="mx-auto max-w-[760px] px-6 py-14">
        <h1 className="font-display text-4xl font-bold">
          jubrak<span className="text-primary">.</span>
        </h1>
        <p className="mt-2 mb-8 max-w-[560px] text-[16px] text-muted">
          Drums that feel and sound like they belong beside your reference: hear it, measure it, build towards
          it, and see how far apart the two still are.
        </p>
        <form
          className="mb-8 flex gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void create();
          }}
        >
          <input
            className="h-10 grow rounded-lg border border-line bg-base-200 px-3 text-[15px]"
            placeholder="Name of the new project"
            aria-label="Name of the new project"
            maxLength={120}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <button type="submit" className="press press-strong h-10 px-4 text-[15px]">
            <Plus size={17} /> New project
          </button>
        </form>
        <h2 className="mb-2 text-lg">Projects</h2>
        {error && <p className="text-error">{error.message}</p>}
        {data?.projects.length === 0 && (
          <p className="text-muted">
            None yet. Name one above, or start Jubrak with <code className="num">jubrak demo</code> to see the
            rink's.
          </p>
        )}
        <ul className="flex flex-col gap-1.5">
          {data?.projects.map((p) => (
            <li key={p.id} className="rowbox flex items-center">
              <button
                type="button"
                className="grow cursor-pointer rounded-lg px-4 py-3 text-left hover:bg-base-300"
                onClick={() => go(p.id, "reference")}
              >
                <span className="block font-display text-[17px] font-semibold">{p.name}</span>
                <span className="text-[12px] text-muted">
                  changed{" "}
                  {new Date(p.updated).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
                </span>
              </button>
              {asking === p.id ? (
                <span className="flex items-center gap-2 pr-3 text-[13px]">
                  Delete for good?
                  <button type="button" className="press" onClick={() => void remove(p.id)}>
                    Delete
                  </button>
                  <button type="button" className="press" onClick={() => setAsking("")}>
                    Keep
                  </button>
                </span>
              ) : (
                <button
                  type="button"
                  className="mr-3 cursor-pointer rounded p-2 hover:bg-base-300"
                  aria-label={`Delete ${p.name}`}
                  onClick={() => setAsking(p.id)}
                >
                  <Trash2 size={16} />
                </button>
              )}
            </li>
          ))}
        </ul>
      </div>
    </main>
  );
}
