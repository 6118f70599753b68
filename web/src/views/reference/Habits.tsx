// What several recordings have in common: making one profile of them, and what it says.
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { familyName } from "../../parts/family";
import { num } from "../../parts/format";
import { rangeText } from "../../parts/ranges";
import { useProject } from "../../state/project";
import { useProfiles } from "../../state/queries";

/** Which references and profiles are put together, and what it is called. */
export function MakeHabit(p: { project: string; words: string[]; onMade: (id: string) => void }) {
  const references = useProject((s) => s.state?.document.references) ?? [];
  const profiles = useProfiles().data?.profiles ?? [];
  const notify = useProject((s) => s.notify);
  const queries = useQueryClient();
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const [name, setName] = useState("");
  const [into, setInto] = useState("");
  const [busy, setBusy] = useState(false);
  const habits = profiles.filter((x) => x.habit);
  const fits = (text: string) => p.words.every((w) => text.toLowerCase().includes(w));
  const list: [string, string, string][] = [
    ...references.map((r): [string, string, string] => [`r ${r.id}`, r.name, "reference of this project"]),
    ...profiles
      .filter((x) => x.id !== into)
      .map((x): [string, string, string] => [
        `p ${x.id}`,
        x.name,
        x.source === "measured" ? "saved by you" : x.source,
      ]),
  ].filter(([, text, from]) => fits(`${text} ${from}`));
  const picked = (kind: string) => [...chosen].filter((c) => c.startsWith(kind)).map((c) => c.slice(2));
  const make = async () => {
    setBusy(true);
    try {
      const made = await api.saveHabit(p.project, {
        name: name.trim(),
        references: picked("r "),
        profiles: picked("p "),
        into,
      });
      await queries.invalidateQueries({ queryKey: ["profiles"] });
      notify(`“${made.name}” is built from ${made.habit?.recordings.length ?? 0} recordings.`, "info");
      p.onMade(made.id);
    } catch (e) {
      notify((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const enough = chosen.size + (into ? 1 : 0) >= 2;
  return (
    <div className="flex min-h-0 grow flex-col gap-2 p-4">
      <p className="text-sm text-muted">
        A habit is what several recordings have in common. Choose recordings and profiles; the habit gives
        their ranges, what they share, what varies and what is out of the ordinary.
      </p>
      <ul
        className="min-h-0 grow overflow-y-auto rounded-lg border border-line p-1"
        aria-label="Recordings and profiles"
      >
        {list.map(([id, text, from]) => (
          <li key={id}>
            <label className="flex items-center gap-2 px-2 py-1 text-sm">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={chosen.has(id)}
                onChange={(e) => {
                  const next = new Set(chosen);
                  if (e.target.checked) next.add(id);
                  else next.delete(id);
                  setChosen(next);
                }}
              />
              <span className="font-semibold">{text}</span>
              <span className="text-xs text-muted">{from}</span>
            </label>
          </li>
        ))}
      </ul>
      <div className="flex items-center gap-2">
        <select
          className="press h-8 px-1.5 text-sm"
          aria-label="New or grown"
          value={into}
          onChange={(e) => setInto(e.target.value)}
        >
          <option value="">a new habit</option>
          {habits.map((h) => (
            <option key={h.id} value={h.id}>
              into “{h.name}”
            </option>
          ))}
        </select>
        <input
          className="press h-8 grow cursor-text px-2"
          aria-label="Name of the habit"
          placeholder={into ? "its name stays" : "what it is called"}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button
          type="button"
          className="press press-strong"
          disabled={busy || !enough || (into === "" && name.trim() === "")}
          onClick={() => void make()}
        >
          {busy ? "Measuring…" : `Make a habit from ${chosen.size}`}
        </button>
      </div>
    </div>
  );
}

const names: Record<string, string> = { tempo: "Tempo", swing: "Swing", "kick.pitch": "Kick fundamental" };

function measureName(id: string): string {
  const [what, family] = id.split(".");
  return names[id] ?? `${what}, ${familyName(family ?? "")}`;
}

/** What a habit's recordings share, what varies, what is out of the ordinary. */
export function HabitTable(p: {
  profile: Schemas["Profile"];
  onAim?: (recording: number) => void;
  nearest?: number;
}) {
  const h = p.profile.habit;
  const [all, setAll] = useState(false);
  if (!h) return null;
  const shown = all ? h.measures : h.measures.slice(0, 14);
  return (
    <section aria-label="Habit" className="mb-4">
      <p className="mb-2 text-sm">
        {h.recordings.length} recordings: {h.recordings.map((r) => r.name).join(", ")}.
      </p>
      {p.onAim && (
        <label className="mb-2 flex items-center gap-2 text-sm">
          Compare with
          <select
            className="press h-8 px-1.5 text-sm"
            aria-label="Compare with"
            value={h.aim}
            onChange={(e) => p.onAim?.(Number(e.target.value))}
          >
            <option value={0}>the ranges of all</option>
            {h.recordings.map((r, i) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: recordings are distinguished by their place
              <option key={`${r.name} ${i}`} value={i + 1}>
                {r.name}
                {p.nearest === i + 1 ? " (nearest to mine)" : ""}
              </option>
            ))}
          </select>
        </label>
      )}
      <table className="w-full max-w-[640px] text-sm">
        <thead>
          <tr className="text-left text-xs text-muted">
            <th className="py-1 font-normal">measure</th>
            <th className="font-normal">range</th>
            <th className="font-normal">middle</th>
            <th className="font-normal" />
            <th className="font-normal">found in</th>
          </tr>
        </thead>
        <tbody>
          {shown.map((m) => (
            <tr key={m.id} className="border-t border-line/70">
              <td className="py-1 pr-3">{measureName(m.id)}</td>
              <td className="num pr-3">{rangeText(m.range, m.unit, 1)}</td>
              <td className="num pr-3">{num(m.median)}</td>
              <td className={`pr-3 ${m.shared ? "text-success" : "text-muted"}`}>
                {m.shared ? "shared" : "varies"}
                {m.odd.length > 0 && (
                  <span className="text-error">
                    {" "}
                    not {m.odd.map((i) => h.recordings[i]?.name ?? "").join(", ")}
                  </span>
                )}
              </td>
              <td className="num text-xs text-muted">
                {m.speak} of {h.recordings.length}
                {m.hits > 0 ? `, ${m.hits} hits` : ""}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {h.measures.length > 14 && (
        <button type="button" className="press mt-1 h-7 px-2 text-xs" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${h.measures.length}`}
        </button>
      )}
    </section>
  );
}
