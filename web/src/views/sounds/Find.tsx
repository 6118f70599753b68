// Find: the sounds of the library by words, tags, family and what they measure, heard
// in the voice's place while the groove plays.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useMemo, useState } from "react";
import { api, type Schemas, type Voice } from "../../api/client";
import { familyName, Glyph, hue } from "../../parts/family";
import { noteNames, noteOf, noteText, num } from "../../parts/format";
import { HearList, PercentWave } from "../../parts/HearList";
import { useProject } from "../../state/project";
import { useInfo, useLibrary } from "../../state/queries";
import { useShaping } from "../../state/shaping";
import { usePreview } from "./usePreview";

type Sound = Schemas["LibrarySound"];

const orders = {
  near: "most like this one",
  target: "most like its target",
  dark: "darkest first",
  bright: "brightest first",
  short: "shortest first",
  long: "longest first",
  pitch: "near a pitch",
  name: "by name",
} as const;
type Order = keyof typeof orders;

/** By how many semitones a pitch is moved to the nearest note of a name, C is 0. */
function tuning(hz: number | null | undefined, note: number): number {
  if (!hz) return 0;
  const up = (((note - noteOf(hz)) % 12) + 12) % 12;
  return up > 6 ? up - 12 : up;
}

export function Find({ voice }: { voice: Voice }) {
  const library = useLibrary().data;
  const families = useInfo().data?.families ?? [];
  const id = useProject((p) => p.state?.id) ?? "";
  const notify = useProject((p) => p.notify);
  const client = useQueryClient();
  const show = useShaping((s) => s.set);
  const preview = usePreview(voice);
  const target = useProject((p) => p.state?.document.targets.find((t) => t.voice === voice.id));
  const [words, setWords] = useState("");
  const [family, setFamily] = useState<string>(voice.family);
  const [order, setOrder] = useState<Order>("near");
  const [hz, setHz] = useState(200);
  const [note, setNote] = useState(-1);
  const [than, setThan] = useState<string[]>([]);
  const [chosen, setChosen] = useState("");
  const [name, setName] = useState("");
  // Of the sound that was there when the list was opened.
  const near = useQuery({
    queryKey: ["near", id, voice.id, preview.before, than, order === "target" && target],
    queryFn: () => api.near(id, voice.id, than, order === "target"),
    staleTime: Number.POSITIVE_INFINITY,
  }).data?.distances;
  const list = useMemo(() => {
    const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
    const found = (library?.sounds ?? []).filter(
      (s) =>
        (family === "" || s.family === family) &&
        (note < 0 || s.facts.fundamental_hz) &&
        (than.length === 0 || near?.[s.id] !== undefined) &&
        asked.every((w) =>
          [s.name, familyName(s.family), ...s.tags].some((t) => t.toLowerCase().includes(w)),
        ),
    );
    const by: Record<Order, (s: Sound) => number | string> = {
      near: (s) => near?.[s.id] ?? 99,
      target: (s) => near?.[s.id] ?? 99,
      dark: (s) => s.facts.spectral_centroid_hz ?? 1e6,
      bright: (s) => -(s.facts.spectral_centroid_hz ?? 0),
      short: (s) => s.facts.decay_60db_ms ?? 1e6,
      long: (s) => -(s.facts.decay_60db_ms ?? 0),
      pitch: (s) => (s.facts.fundamental_hz ? Math.abs(Math.log2(s.facts.fundamental_hz / hz)) : 1e6),
      name: (s) => s.name.toLowerCase(),
    };
    // Where a note is asked for, what needs the least tuning comes first.
    const key = note < 0 ? by[order] : (s: Sound) => Math.abs(tuning(s.facts.fundamental_hz, note));
    return found.sort((a, b) => (key(a) < key(b) ? -1 : key(a) > key(b) ? 1 : 0));
  }, [library, words, family, note, order, hz, near, than]);
  const tags = useMemo(() => {
    const count: Record<string, number> = {};
    for (const s of library?.sounds ?? []) for (const t of s.tags) count[t] = (count[t] ?? 0) + 1;
    return Object.keys(count)
      .sort((a, b) => (count[b] ?? 0) - (count[a] ?? 0))
      .slice(0, 14);
  }, [library]);
  const close = () => show({ panel: "charts" });
  const save = async () => {
    try {
      await api.saveSound(id, voice.id, { name: name.trim() || voice.name, tags: [], layers: [] });
      notify(`${name.trim() || voice.name} is in the library.`, "info");
      setName("");
      await client.invalidateQueries({ queryKey: ["library"] });
    } catch (e) {
      notify((e as Error).message);
    }
  };
  const toggle = (tag: string) => {
    const all = words.split(/\s+/).filter(Boolean);
    setWords((all.includes(tag) ? all.filter((w) => w !== tag) : [...all, tag]).join(" "));
  };
  return (
    <section className="flex min-h-0 grow flex-col gap-1.5" aria-label="Find a sound">
      <div className="flex flex-wrap items-center gap-2">
        <input
          className="press h-8 w-[220px] cursor-text px-2"
          type="search"
          aria-label="Words"
          placeholder="short hard, brush, bell…"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
        <select
          className="press h-8 px-1.5 text-sm"
          aria-label="Family"
          value={family}
          onChange={(e) => setFamily(e.target.value)}
        >
          <option value="">every family</option>
          {families.map((f) => (
            <option key={f} value={f}>
              {familyName(f)}
            </option>
          ))}
        </select>
        <select
          className="press h-8 px-1.5 text-sm"
          aria-label="Tuned to"
          value={note}
          onChange={(e) => setNote(Number(e.target.value))}
        >
          <option value={-1}>any pitch</option>
          {noteNames.map((n, i) => (
            <option key={n} value={i}>
              tuned to {n}
            </option>
          ))}
        </select>
        <select
          className="press h-8 px-1.5 text-sm"
          aria-label="Order"
          value={order}
          onChange={(e) => setOrder(e.target.value as Order)}
        >
          {Object.entries(orders)
            .filter(([k]) => k !== "target" || target)
            .map(([k, text]) => (
              <option key={k} value={k}>
                {text}
              </option>
            ))}
        </select>
        {order === "pitch" && (
          <label className="flex items-center gap-1 text-xs text-muted">
            near
            <input
              className="press num h-8 w-[64px] cursor-text px-1.5"
              aria-label="Pitch, Hz"
              type="number"
              min={20}
              max={8000}
              value={hz}
              onChange={(e) => setHz(Math.max(Number(e.target.value), 20))}
            />
            Hz
          </label>
        )}
        <span className="grow text-right text-xs text-muted">{list.length} sounds</span>
        <button type="button" className="press" onClick={close}>
          Done
        </button>
      </div>
      <div className="flex flex-wrap gap-1">
        <fieldset className="mr-2 flex gap-1" aria-label="Than what was there">
          {["darker", "brighter", "shorter", "longer"].map((w) => (
            <button
              key={w}
              type="button"
              className={`press h-6 px-2 text-xs ${than.includes(w) ? "bg-row!" : ""}`}
              aria-pressed={than.includes(w)}
              title={`Only sounds that are ${w} than ${voice.name} was`}
              onClick={() => setThan(than.includes(w) ? than.filter((x) => x !== w) : [...than, w])}
            >
              {w}
            </button>
          ))}
        </fieldset>
        {tags.map((t) => (
          <button
            key={t}
            type="button"
            className={`press h-6 px-2 text-xs ${words.split(/\s+/).includes(t) ? "bg-row!" : ""}`}
            aria-pressed={words.split(/\s+/).includes(t)}
            onClick={() => toggle(t)}
          >
            {t}
          </button>
        ))}
      </div>
      {list.length === 0 && (
        <p className="rowbox px-3 py-4 text-sm text-muted">
          {library ? "No sound has all of this. Take a word or the family away." : "Opening the library…"}
        </p>
      )}
      <HearList
        label="Sounds of the library"
        items={list}
        id={(s) => s.id}
        chosen={chosen}
        onChoose={(s) => {
          setChosen(s.id);
          preview.hear(s.layers, s.name, noteNames[note] ?? null);
        }}
        onTake={() => {
          preview.take();
          close();
        }}
        onBack={() => {
          preview.back();
          close();
        }}
      >
        {(s) => (
          <div className="flex items-center gap-3">
            <Glyph family={s.family} size={15} />
            <span className="w-[130px] truncate font-semibold">{s.name}</span>
            <PercentWave points={s.facts.wave} colour={hue(s.family)} />
            <span className="grow truncate text-xs text-muted">
              {s.own ? "mine" : ""} {s.tags.join(", ")}
            </span>
            <span className={`num ${note < 0 ? "w-[70px]" : "w-[96px]"} text-right text-xs`}>
              {s.facts.fundamental_hz ? noteText(s.facts.fundamental_hz).split(" ")[0] : "–"}
              {note >= 0 && (
                <span className="text-muted"> {num(tuning(s.facts.fundamental_hz, note), 1, true)} st</span>
              )}
            </span>
            <span className="num w-[64px] text-right text-xs">{num(s.facts.decay_60db_ms, 0)} ms</span>
            <span className="num w-[76px] text-right text-xs">{num(s.facts.spectral_centroid_hz, 0)} Hz</span>
            <span
              className="num w-[64px] text-right text-xs"
              title="Spectral difference from the sound you started with; 0 dB is identical"
            >
              {near ? `${num(near[s.id] ?? 0)} dB` : ""}
            </span>
            <span className="w-[26px]">
              {s.own && (
                <button
                  type="button"
                  className="cursor-pointer"
                  aria-label={`Remove ${s.name} from the library`}
                  onClick={async (e) => {
                    e.stopPropagation();
                    await api.deleteItem(s.id).catch((err: Error) => notify(err.message));
                    await client.invalidateQueries({ queryKey: ["library"] });
                  }}
                >
                  <Trash2 size={13} />
                </button>
              )}
            </span>
          </div>
        )}
      </HearList>
      <div className="flex items-center gap-2 text-xs text-muted">
        <span className="grow">
          ↑ ↓ hear it in {voice.name}'s place while the groove plays; Enter takes it, Escape brings back what
          was there.
        </span>
        <input
          className="press h-8 w-[150px] cursor-text px-2 text-sm"
          aria-label="Name in the library"
          placeholder={voice.name}
          value={name}
          onChange={(e) => setName(e.target.value)}
        />
        <button type="button" className="press" onClick={() => void save()}>
          Save {voice.name}
        </button>
      </div>
    </section>
  );
}
