// A project in the list: its groove in small, its tempo, its reference and how
// far it still is from it.
import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { familyName, hue } from "../../parts/family";
import { bytes, num } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { useProject } from "../../state/project";
import { go } from "../../state/route";

type Summary = Schemas["Summary"];

export function ProjectCard({ project: p, onChanged }: { project: Summary; onChanged: () => Promise<void> }) {
  const notify = useProject((s) => s.notify);
  const [asking, setAsking] = useState(false);
  const [naming, setNaming] = useState<string | null>(null);
  const attempt = async (work: Promise<unknown>, otherwise: string) => {
    try {
      await work;
    } catch (e) {
      notify(e instanceof Error ? e.message : otherwise);
    }
    await onChanged();
  };
  const rename = () => {
    const name = naming?.trim() ?? "";
    setNaming(null);
    if (name !== "" && name !== p.name)
      void attempt(
        api.edit(p.id, p.version, [{ op: "project.rename", name }], ""),
        "The project could not be renamed. It keeps its name; try again.",
      );
  };
  return (
    <li className="rowbox flex items-center gap-3 pr-3" aria-label={p.name}>
      {naming === null ? (
        <button
          type="button"
          className="grid min-w-0 grow cursor-pointer grid-cols-[minmax(0,1fr)_300px_minmax(0,210px)] items-center gap-4 rounded-lg px-4 py-2.5 text-left hover:bg-base-300"
          disabled={p.problem !== ""}
          onClick={() => go(p.id, "reference")}
        >
          <span className="min-w-0">
            <span className="block truncate font-display text-xl font-semibold">{p.name}</span>
            {p.problem && <span className="block text-xs text-error">{p.problem}</span>}
            <span className={`block text-xs text-muted ${p.problem ? "hidden" : ""}`}>
              <span className="num">{num(p.tempo_bpm)}</span> BPM, {p.meter},{" "}
              <span className="num">{p.bars}</span> {p.bars === 1 ? "bar" : "bars"}
            </span>
          </span>
          <Rows rows={p.rows} />
          <span className="min-w-0 text-xs text-muted">
            <span className="block truncate text-base-content">
              {p.reference || (p.problem ? "" : "no reference yet")}
            </span>
            <span className="block">
              {p.reference === "" ? (
                ""
              ) : p.outside === null ? (
                "comparing…"
              ) : p.measurable === 0 ? (
                "Not enough to compare"
              ) : (
                <>
                  <span className="num">{p.outside}</span> of <span className="num">{p.measurable}</span>{" "}
                  outside
                </>
              )}
            </span>
            <span className="block">
              {new Date(p.updated).toLocaleString("en-GB", {
                day: "numeric",
                month: "short",
                hour: "2-digit",
                minute: "2-digit",
              })}
              , <span className="num">{bytes(p.size_bytes)}</span>
            </span>
          </span>
        </button>
      ) : (
        <form
          className="flex grow gap-2 px-4 py-3"
          onSubmit={(e) => {
            e.preventDefault();
            rename();
          }}
        >
          <input
            // biome-ignore lint/a11y/noAutofocus: it was asked for by a click
            autoFocus
            aria-label={`New name of ${p.name}`}
            className="h-8 grow rounded-lg border border-line bg-base-100 px-2"
            maxLength={120}
            value={naming}
            onChange={(e) => setNaming(e.target.value)}
            onKeyDown={(e) => e.key === "Escape" && setNaming(null)}
          />
          <button type="submit" className="press press-strong">
            Rename
          </button>
          <button type="button" className="press" onClick={() => setNaming(null)}>
            Cancel
          </button>
        </form>
      )}
      {asking ? (
        <span className="flex items-center gap-2 text-sm">
          Delete for good?
          <button
            type="button"
            className="press"
            onClick={() =>
              void attempt(
                api.remove(p.id),
                "The project could not be deleted. It is still there; try again.",
              )
            }
          >
            Delete
          </button>
          <button type="button" className="press" onClick={() => setAsking(false)}>
            Cancel
          </button>
        </span>
      ) : (
        naming === null && (
          <Menu
            label="More"
            name={`More for ${p.name}`}
            right
            items={[
              { text: "Rename", onClick: () => setNaming(p.name) },
              {
                text: "Duplicate",
                hint: "A new project of its present state",
                onClick: () =>
                  void attempt(
                    api.duplicate(p.id),
                    "The project could not be duplicated. The original is as it was; try again.",
                  ),
              },
              {
                text: "Delete",
                hint: "With its history and any sounds no other project uses",
                onClick: () => setAsking(true),
              },
            ]}
          />
        )
      )}
    </li>
  );
}

const rowHeight = 9;

/** The lanes of a groove as rows of small strokes. */
function Rows({ rows }: { rows: Summary["rows"] }) {
  const width = 300;
  const height = Math.max(rows.length, 1) * rowHeight;
  if (rows.length === 0) return <span className="text-xs text-muted">an empty groove</span>;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={rows.map((r) => `${familyName(r.family)} ${r.hits.length}`).join(", ")}
    >
      {rows.map((r, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows have no name of their own and do not move
        <g key={i}>
          <line
            x1={0}
            x2={width}
            y1={(i + 1) * rowHeight - 1}
            y2={(i + 1) * rowHeight - 1}
            stroke="var(--line)"
          />
          {r.hits.map(([at, velocity]) => (
            <line
              key={at}
              x1={1 + (at ?? 0) * (width - 2)}
              x2={1 + (at ?? 0) * (width - 2)}
              y1={(i + 1) * rowHeight - 1}
              y2={(i + 1) * rowHeight - 1 - 1 - ((velocity ?? 0) / 127) * (rowHeight - 2)}
              stroke={hue(r.family)}
              strokeWidth={2}
            />
          ))}
        </g>
      ))}
    </svg>
  );
}
