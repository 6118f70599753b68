// Grooves to take: those that ship, those of other projects, heard with this kit before
// one is taken; where each row goes is shown and can be changed.
import { useQuery } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { api, type Document, type Schemas, type State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { hue } from "../../parts/family";
import { num } from "../../parts/format";
import { HearList } from "../../parts/HearList";
import { newGesture, useProject } from "../../state/project";
import { usePatterns, useProfiles } from "../../state/queries";
import { barTicks } from "../../state/ticks";

type Taken = Omit<Extract<Schemas["Edit"], { op: "take.groove" }>, "op" | "part">;

interface Item {
  id: string;
  name: string;
  about: string;
  tags: string[];
  bpm: number;
  swing: number;
  groove: Document["groove"];
  rows: Schemas["GrooveRow"][];
}

/** A project's groove as something to be taken. */
const ofProject = (id: string, d: Document, name = d.name): Item => ({
  id,
  name,
  about: d.groove.name,
  tags: ["project"],
  bpm: d.tempo[0]?.bpm ?? 120,
  swing: d.groove.feel.swing_percent,
  groove: d.groove,
  rows: d.kit.voices.map((v) => ({ lane: v.id, name: v.name, family: v.family })),
});

export function Grooves({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const patterns = usePatterns().data?.patterns;
  const profiles = useProfiles().data?.profiles;
  const [from, setFrom] = useState<"shipped" | "projects">("shipped");
  const [words, setWords] = useState("");
  const [part, setPart] = useState<"both" | "pattern" | "feel">("both");
  const [tempo, setTempo] = useState(false);
  const [chosen, setChosen] = useState("");
  const [places, setPlaces] = useState<Record<string, string>>({});
  const was = useRef<{ gesture: string; back: Taken } | null>(null);
  const others = useQuery({
    queryKey: ["other grooves", state.id],
    queryFn: async () => {
      const list = (await api.projects()).projects.filter((p) => p.id !== state.id).slice(0, 40);
      return Promise.all(list.map((p) => api.open(p.id)));
    },
    enabled: from === "projects",
  }).data;
  const items = useMemo(() => {
    const genre = (id: string) => profiles?.find((p) => p.id === id)?.name ?? "";
    const all: Item[] =
      from === "projects"
        ? (others ?? []).flatMap((s) => [
            ofProject(s.id, s.document),
            ...s.document.variations.flatMap((v) =>
              v.groove && !v.here
                ? [
                    ofProject(
                      `${s.id} ${v.id}`,
                      { ...s.document, groove: v.groove },
                      `${s.document.name}, ${v.id.toUpperCase()}`,
                    ),
                  ]
                : [],
            ),
          ])
        : (patterns ?? []).map((p) => ({
            id: p.id,
            name: p.name,
            about: genre(p.genre),
            tags: p.tags,
            bpm: p.bpm,
            swing: p.swing_percent,
            groove: p.groove,
            rows: p.rows,
          }));
    const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
    return all.filter((i) =>
      asked.every((w) => `${i.name} ${i.about} ${i.tags.join(" ")}`.toLowerCase().includes(w)),
    );
  }, [from, others, patterns, profiles, words]);
  const item = items.find((i) => i.id === chosen);

  const take = (
    i: Item,
    how: { places?: Record<string, string>; part?: typeof part; tempo?: boolean } = {},
  ) => {
    if (!was.current) {
      const mine = ofProject("", state.document);
      was.current = {
        gesture: newGesture(),
        back: {
          groove: mine.groove,
          rows: mine.rows,
          places: Object.fromEntries(mine.rows.map((r) => [r.lane, r.lane])),
          tempo_bpm: mine.bpm,
          title: "what was there",
        },
      };
    }
    const whole = { part: "both" as const, ...was.current.back };
    const asked: Schemas["Edit"] = {
      op: "take.groove",
      groove: i.groove,
      rows: i.rows,
      places: how.places ?? places,
      part: how.part ?? part,
      title: i.name,
      ...((how.tempo ?? tempo) ? { tempo_bpm: i.bpm } : {}),
    };
    // Each is tried on what was there before the first.
    edit([{ op: "take.groove", ...whole }, asked], was.current.gesture);
  };
  const back = () => {
    if (was.current) edit([{ op: "take.groove", part: "both", ...was.current.back }], was.current.gesture);
    was.current = null;
    setChosen("");
  };
  return (
    <section className="flex h-[330px] gap-3" aria-label="Grooves to take">
      <div className="flex min-w-0 grow flex-col gap-1.5">
        <div className="flex flex-wrap items-center gap-2">
          <Choice
            label="Where from"
            value={from}
            options={[
              ["shipped", "Library"],
              ["projects", "My projects"],
            ]}
            onChange={setFrom}
          />
          <input
            type="search"
            className="press h-8 min-w-[150px] grow cursor-text px-2"
            aria-label="Search grooves"
            placeholder="house, swung, ghosts, rolls…"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
          <span className="num text-xs text-muted">{items.length}</span>
        </div>
        <HearList
          label="Grooves"
          items={items}
          id={(i) => i.id}
          chosen={chosen}
          onChoose={(i) => {
            setChosen(i.id);
            setPlaces({});
            take(i, { places: {} });
          }}
          onTake={() => {
            was.current = null;
          }}
          onBack={back}
        >
          {(i) => (
            <div className="flex items-center gap-3">
              <span className="w-[130px] truncate font-semibold">{i.name}</span>
              <SmallGroove item={i} />
              <span className="grow truncate text-xs text-muted">{i.about}</span>
              <span className="num w-[64px] text-right text-xs">{num(i.bpm, 0)} BPM</span>
              <span className="num w-[52px] text-right text-xs">{num(i.swing)} %</span>
            </div>
          )}
        </HearList>
        <p className="text-xs text-muted">
          ↑ ↓ hears it with this kit while the groove plays; Enter takes it, Escape brings back what was
          there.
        </p>
      </div>
      <div className="flex w-[236px] shrink-0 flex-col gap-1.5 overflow-y-auto text-sm">
        <Choice
          label="What is taken"
          value={part}
          options={[
            ["both", "Both"],
            ["pattern", "Pattern"],
            ["feel", "Feel"],
          ]}
          onChange={(p) => {
            setPart(p);
            if (item) take(item, { part: p });
          }}
        />
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={tempo}
            onChange={(e) => {
              setTempo(e.target.checked);
              if (item) take(item, { tempo: e.target.checked });
            }}
          />
          its tempo too
        </label>
        {item ? (
          <>
            <h3 className="mt-1 text-sm">Assign its rows</h3>
            {item.rows
              .filter((r) => (item.groove.lanes.find((l) => l.voice === r.lane)?.hits.length ?? 0) > 0)
              .map((r) => (
                <label key={r.lane} className="flex items-center gap-1">
                  <span className="grow truncate">{r.name}</span>
                  <select
                    className="press h-7 max-w-[120px] px-1 text-xs"
                    aria-label={`${r.name} goes to`}
                    value={places[r.lane] ?? "auto"}
                    onChange={(e) => {
                      const next = { ...places, [r.lane]: e.target.value };
                      if (e.target.value === "auto") delete next[r.lane];
                      setPlaces(next);
                      take(item, { places: next });
                    }}
                  >
                    <option value="auto">by family</option>
                    <option value="">Leave out</option>
                    {state.document.kit.voices.map((v) => (
                      <option key={v.id} value={v.id}>
                        {v.name}
                      </option>
                    ))}
                  </select>
                </label>
              ))}
            <div className="mt-1 flex gap-1">
              <button
                type="button"
                className="press press-strong"
                onClick={() => {
                  was.current = null;
                  setChosen("");
                }}
              >
                Keep it
              </button>
              <button type="button" className="press" onClick={back}>
                Back
              </button>
            </div>
          </>
        ) : (
          <p className="text-xs text-muted">
            A MIDI file is brought as a reference; “Use the pattern” above then takes it by role.
          </p>
        )}
      </div>
    </section>
  );
}

function SmallGroove({ item }: { item: Item }) {
  const total = item.groove.bars * barTicks(item.groove.meter);
  const lanes = item.groove.lanes.filter((l) => l.hits.length > 0);
  return (
    <svg width={150} height={24} aria-hidden="true">
      {lanes.map((l, i) => (
        <path
          key={l.voice}
          d={l.hits
            .map(
              (h) =>
                `M${((h.tick / total) * 148 + 1).toFixed(1)} ${(i * 24) / lanes.length + 1}v${Math.max(24 / lanes.length - 1, 1).toFixed(1)}`,
            )
            .join("")}
          stroke={hue(item.rows.find((r) => r.lane === l.voice)?.family ?? "perc")}
          strokeWidth={1.8}
        />
      ))}
    </svg>
  );
}
