// The library: feels and tones saved from references, and what is common
// practice in genres; each can be the target when there is no recording.
import { useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { api, type Schemas } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { rangeText } from "../../parts/ranges";
import { useProject } from "../../state/project";
import { useProfiles } from "../../state/queries";
import { HabitTable, MakeHabit } from "./Habits";
import { ProfileTable } from "./ProfileTable";
import { Recordings } from "./Recordings";

type Profile = Schemas["Profile"];

export function Library(p: {
  project: string;
  /** The recording that can be saved, if one is open. */
  reference: { id: string; name: string } | null;
  onClose: () => void;
}) {
  const box = useRef<HTMLDialogElement>(null);
  const { data } = useProfiles();
  const [search, setSearch] = useState("");
  const [chosen, setChosen] = useState("");
  const [from, setFrom] = useState<"feels" | "recordings" | "habit">("feels");
  const queries = useQueryClient();
  const take = useProject((s) => s.useProfile);
  const notify = useProject((s) => s.notify);
  useEffect(() => {
    box.current?.showModal();
  }, []);
  const all = data?.profiles ?? [];
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  const shown = all.filter((x) => {
    const text = `${x.name} ${x.tags.join(" ")} ${x.notes} ${x.source}`.toLowerCase();
    return words.every((w) => text.includes(w));
  });
  const profile = shown.find((x) => x.id === chosen) ?? shown[0];
  const remove = async (x: Profile) => {
    await api.deleteProfile(x.id).catch((e: Error) => notify(e.message));
    await queries.invalidateQueries({ queryKey: ["profiles"] });
  };
  const lean = async (x: Profile, genre: string) => {
    const of = all.find((g) => g.id === genre);
    try {
      const made = await api.shrinkProfile(x.id, {
        genre,
        name: `${x.name}, ${of?.name ?? "genre"}`.slice(0, 80),
      });
      await queries.invalidateQueries({ queryKey: ["profiles"] });
      setSearch("");
      setChosen(made.id);
      notify(`“${made.name}” is in the library now.`, "info");
    } catch (e) {
      notify((e as Error).message);
    }
  };
  return (
    <dialog
      ref={box}
      onClose={p.onClose}
      aria-label="Library"
      className="m-auto h-[620px] w-[960px] max-w-[94vw] rounded-xl border border-line bg-base-100 p-0 text-base-content backdrop:bg-black/40"
    >
      <div className="flex h-full flex-col">
        <div className="flex items-center gap-3 border-b border-line px-5 py-3">
          <h2 className="text-2xl">Library</h2>
          <Choice
            label="Library"
            value={from}
            options={[
              ["feels", "Feels"],
              ["recordings", "Recordings"],
              ["habit", "Habits"],
            ]}
            onChange={setFrom}
          />
          <input
            type="search"
            aria-label="Search the library"
            placeholder={
              from === "feels" ? "Search: swung, four-on-the-floor, slow…" : "Search: name or project"
            }
            className="grow rounded-lg border border-line bg-base-100 px-3 py-1.5 text-sm"
            value={search}
            onChange={(e) => setSearch(e.target.value)}
          />
          <button type="button" className="press" onClick={() => box.current?.close()}>
            Close
          </button>
        </div>
        {from === "feels" && p.reference && (
          <Save project={p.project} reference={p.reference} onSaved={(id) => setChosen(id)} />
        )}
        {from === "recordings" && (
          <Recordings project={p.project} words={words} onUsed={() => box.current?.close()} />
        )}
        {from === "habit" && (
          <MakeHabit
            project={p.project}
            words={words}
            onMade={(id) => {
              setFrom("feels");
              setSearch("");
              setChosen(id);
            }}
          />
        )}
        <div className={from === "feels" ? "flex min-h-0 grow" : "hidden"}>
          <ul className="w-[330px] shrink-0 overflow-y-auto border-r border-line p-2" aria-label="Profiles">
            {shown.map((x) => (
              <li key={x.id}>
                <button
                  type="button"
                  aria-pressed={x.id === profile?.id}
                  onClick={() => setChosen(x.id)}
                  className={`w-full cursor-pointer rounded-lg px-3 py-2 text-left ${
                    x.id === profile?.id ? "bg-row" : "hover:bg-base-300"
                  }`}
                >
                  <span className="block font-semibold">{x.name}</span>
                  <span className="num block text-2xs text-muted">
                    {rangeText(x.tempo_bpm, "BPM")}, swing {rangeText(x.swing_percent, "%")}
                  </span>
                  <span className="block text-2xs text-muted">
                    {x.source === "measured" ? "saved by you" : x.source}
                  </span>
                </button>
              </li>
            ))}
            {shown.length === 0 && (
              <li className="p-3 text-muted">Nothing fits “{search}”. Try fewer words.</li>
            )}
          </ul>
          {profile && (
            <div className="flex min-w-0 grow flex-col overflow-y-auto p-5">
              <h3 className="text-xl">{profile.name}</h3>
              <p className="mb-3 text-sm text-muted">
                {profile.tags.join(", ")}
                {profile.tags.length > 0 && "; "}source: {profile.source}
              </p>
              {profile.notes && <p className="mb-3 max-w-[540px]">{profile.notes}</p>}
              <HabitTable profile={profile} />
              <ProfileTable profile={profile} />
              <div className="mt-4 flex gap-2">
                <button
                  type="button"
                  className="press press-strong"
                  onClick={async () => {
                    await take(profile.id);
                    box.current?.close();
                  }}
                >
                  Use as reference
                </button>
                {profile.source === "measured" && !profile.borrowed && (
                  <select
                    className="press px-1.5"
                    aria-label="Lean on a genre"
                    title="Few hits say little: each number moves towards the genre's by as much as it is unsure. Saved as a feel of its own"
                    value=""
                    onChange={(e) => void lean(profile, e.target.value)}
                  >
                    <option value="">Lean on a genre…</option>
                    {all
                      .filter((g) => g.source === "common practice")
                      .map((g) => (
                        <option key={g.id} value={g.id}>
                          {g.name}
                        </option>
                      ))}
                  </select>
                )}
                {(profile.source === "measured" || profile.habit) && (
                  <button type="button" className="press" onClick={() => void remove(profile)}>
                    <Trash2 size={14} /> Delete
                  </button>
                )}
              </div>
            </div>
          )}
        </div>
      </div>
    </dialog>
  );
}

function Save(p: {
  project: string;
  reference: { id: string; name: string };
  onSaved: (id: string) => void;
}) {
  const [name, setName] = useState(p.reference.name);
  const [notes, setNotes] = useState("");
  const [tags, setTags] = useState("");
  const queries = useQueryClient();
  const notify = useProject((s) => s.notify);
  const field = "min-w-0 rounded-lg border border-line bg-base-100 px-2.5 py-1.5 text-sm";
  return (
    <form
      className="flex items-center gap-2 border-b border-line bg-base-200 px-5 py-2.5"
      aria-label="Save what was found"
      onSubmit={async (e) => {
        e.preventDefault();
        try {
          const saved = await api.saveProfile(p.project, p.reference.id, {
            name,
            notes,
            tags: tags
              .split(",")
              .map((t) => t.trim())
              .filter(Boolean),
          });
          await queries.invalidateQueries({ queryKey: ["profiles"] });
          p.onSaved(saved.id);
          notify(`“${saved.name}” is in the library now.`, "info");
        } catch (cause) {
          notify(cause instanceof Error ? cause.message : "It could not be saved.");
        }
      }}
    >
      <span className="shrink-0 text-sm">Save what was found as</span>
      <input
        aria-label="Name"
        className={`${field} w-[180px]`}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <input
        aria-label="Notes"
        placeholder="notes"
        className={`${field} grow`}
        value={notes}
        onChange={(e) => setNotes(e.target.value)}
      />
      <input
        aria-label="Tags, with commas between"
        placeholder="tags, with commas"
        className={`${field} w-[150px]`}
        value={tags}
        onChange={(e) => setTags(e.target.value)}
      />
      <button type="submit" className="press" disabled={name.trim() === ""}>
        Save
      </button>
    </form>
  );
}
