// The drums of the reference, each by itself: its wave and spectrum, what is known of it
// and what is not, heard alone or in its place, taken as samples or made a target.
import { Download } from "lucide-react";
import { useRef, useState } from "react";
import { api, type Schemas, type State } from "../../api/client";
import { useHearing } from "../../live/useHearing";
import { Choice } from "../../parts/Choice";
import { Glyph } from "../../parts/family";
import { num } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { useDrag } from "../../parts/useDrag";
import { useProject } from "../../state/project";
import { useDrums } from "../../state/queries";
import { go } from "../../state/route";
import { useSelection } from "../../state/selection";
import { useShaping } from "../../state/shaping";

type Drum = Schemas["DrumSound"];

const waveWidth = 300;
const drawn = 400; // ms of a drum that are drawn

export function Drums(p: { state: State; reference: Schemas["Reference"]; from: number; to: number }) {
  const { reference } = p;
  const { data, error } = useDrums(reference.id);
  const hearing = useHearing();
  const [dry, setDry] = useState(false);
  // What was there stays in sight while strokes are left out or rows are split.
  const last = useRef<Schemas["DrumSet"] | null>(null);
  if (data?.done === 1) last.current = data;
  const shown = last.current;
  if (error) return <p className="py-6 text-error">{error.message}</p>;
  if (!data && !shown) return <p className="py-6 text-muted">Reading the drums…</p>;
  if (data?.none) return <p className="max-w-[560px] py-6 text-muted">{data.none}</p>;
  const working = data?.done !== 1;
  if (!shown)
    return (
      <div className="max-w-[420px] py-6">
        <p className="mb-2">Taking the drums out of the recording…</p>
        <Progress done={data?.done ?? 0} />
        <p className="mt-2 text-xs text-muted">
          Every stroke of a row is laid over the others; what they share is the drum. It is kept with the
          recording.
        </p>
      </div>
    );
  const someDry = shown.drums.some((d) => d.dry_wave.points.length > 0);
  return (
    <section aria-label="Drums, alone" aria-busy={working}>
      <div className="mb-2 flex h-[32px] items-center gap-3">
        <h2 className="text-xl font-semibold">Drums, alone</h2>
        {working ? (
          <div className="flex w-[300px] items-center gap-2 text-xs text-muted">
            <span className="whitespace-nowrap">Taking them out anew</span>
            <Progress done={data?.done ?? 0} />
          </div>
        ) : (
          <span className="text-xs text-muted">from all their strokes; pale or hatched: a guess</span>
        )}
        <div className="ml-auto">
          <Choice
            label="Room"
            value={dry ? "dry" : "there"}
            options={[
              ["there", "As there", "With the room and the bus it was recorded through"],
              ["dry", "Dry", "The room is estimated from how the drums end, and taken off"],
            ]}
            onChange={(v) => setDry(v === "dry")}
            disabled={(v) => v === "dry" && !someDry}
          />
        </div>
      </div>
      <div className="flex flex-col gap-1.5">
        {shown.drums.map((d) => (
          <Row
            key={`${d.family}/${d.group}`}
            {...p}
            hearing={hearing}
            drum={d}
            dry={dry && d.dry_wave.points.length > 0}
            asked={dry}
          />
        ))}
      </div>
    </section>
  );
}

const Progress = ({ done }: { done: number }) => (
  <progress className="progress w-full" value={done} max={1} aria-label="Drums taken out of the recording" />
);

function Row(p: {
  state: State;
  reference: Schemas["Reference"];
  hearing: ReturnType<typeof useHearing>;
  drum: Drum;
  dry: boolean;
  /** Dry was asked for, whether this drum has it or not. */
  asked: boolean;
  from: number;
  to: number;
}) {
  const { drum, reference, dry, state } = p;
  const edit = useProject((s) => s.edit);
  const takeDrum = useProject((s) => s.takeDrum);
  const [naming, setNaming] = useState(false);
  const of = { family: drum.family, group: drum.group, dry };
  const used = drum.strokes.filter((s) => s.used).length;
  const name = (in_place: boolean) => `${drum.family}/${drum.group}${in_place ? ", in place" : ""}`;
  const hear = (in_place: boolean) =>
    p.hearing.hear(
      name(in_place),
      { reference: reference.id, from_s: p.from, to_s: p.to, drum: { ...of, in_place } },
      in_place ? undefined : drum.seconds,
    );
  const inPlace = p.hearing.heard === name(true);
  const targets = state.document.targets.filter(
    (t) => t.reference === reference.id && t.drum?.family === drum.family && t.drum.group === drum.group,
  );
  const voices = state.document.kit.voices;
  // Voices of the drum's family come first.
  const sorted = [
    ...voices.filter((v) => v.family === drum.family),
    ...voices.filter((v) => v.family !== drum.family),
  ];
  const f = drum.facts;
  const divided = drum.group > 0;
  return (
    <section
      aria-label={drum.name}
      className="rowbox grid items-center gap-3 p-2.5"
      style={{ gridTemplateColumns: "132px minmax(140px, 1fr) 138px 164px 116px" }}
    >
      <div className="min-w-0">
        <div className="flex items-center gap-2">
          <Glyph family={drum.family} size={17} />
          {naming ? (
            <input
              aria-label="Name of the drum"
              className="field w-full"
              defaultValue={drum.name}
              maxLength={40}
              ref={(e) => e?.focus()}
              onKeyDown={(e) => {
                if (e.key === "Enter") e.currentTarget.blur();
                if (e.key === "Escape") setNaming(false);
              }}
              onBlur={(e) => {
                setNaming(false);
                const name = e.target.value.trim();
                if (name !== drum.name)
                  edit([
                    {
                      op: "drums.name",
                      reference: reference.id,
                      family: drum.family,
                      group: drum.group,
                      name,
                    },
                  ]);
              }}
            />
          ) : (
            <h3 className="truncate text-lg font-semibold" title={drum.name}>
              {drum.name}
            </h3>
          )}
        </div>
        <p className="mt-0.5 text-xs text-muted">
          {drum.strokes.length} {drum.strokes.length === 1 ? "stroke" : "strokes"}, {used} used
        </p>
        <div className="mt-1.5 flex gap-1.5">
          <button
            type="button"
            className="press px-2.5"
            onClick={() => hear(false)}
            aria-label={`Hear ${drum.name}`}
          >
            Hear
          </button>
          <button
            type="button"
            className="press px-2.5"
            aria-pressed={inPlace}
            title="This drum and what remains without the others, at its strokes, in the bars on show"
            aria-label={`${inPlace ? "Stop" : "Hear"} ${drum.name} in place`}
            onClick={() => (inPlace ? p.hearing.stop() : hear(true))}
          >
            {inPlace ? "Stop" : "In place"}
          </button>
        </div>
      </div>
      <div className="min-w-0">
        <DrumWave drum={drum} dry={dry} />
        <Sticks drum={drum} reference={reference.id} />
      </div>
      <Octaves drum={drum} />
      <dl className="grid grid-cols-[auto_1fr] gap-x-2 text-xs leading-snug">
        <Fact
          name="fundamental"
          of={f.fundamental_hz}
          unit="Hz"
          digits={1}
          {...(f.note ? { note: f.note } : {})}
        />
        <Fact name="settles" of={f.settles_ms} unit="ms" digits={0} quiet />
        <Fact name="decay" of={f.decay_ms} unit="ms" digits={0} />
        <Fact name="attack" of={f.attack_ms} unit="ms" digits={1} />
        <Fact name="snap" of={f.snap_db} unit="dB" digits={1} />
        <Fact name="brightness" of={f.brightness_hz} unit="Hz" digits={0} />
        <Fact name="level" of={f.level_db} unit="dB" digits={1} hint="All its strokes against all drums" />
        <Fact
          name="to the rest"
          of={f.rest_db}
          unit="dB"
          digits={1}
          quiet
          hint="All its strokes against all that is no drum, K-weighted"
        />
        <Fact
          name="width"
          of={f.width}
          unit=""
          digits={2}
          quiet
          hint="Correlation of both sides: 1 is the middle"
        />
      </dl>
      <div className="flex flex-col gap-1.5">
        <select
          className="press w-full px-1.5"
          aria-label={`Make ${drum.name} the target of a voice`}
          title="What a voice is built towards: it stands beside the voice in Sounds"
          value={targets[0]?.voice ?? ""}
          onChange={(e) =>
            edit(
              e.target.value === ""
                ? targets.map((t) => ({ op: "target.clear" as const, voice: t.voice }))
                : [
                    {
                      op: "target.set",
                      target: { voice: e.target.value, reference: reference.id, drum: of },
                    },
                  ],
            )
          }
        >
          <option value="">{targets.length > 0 ? "no target" : "Target of…"}</option>
          {sorted.map((v) => (
            <option key={v.id} value={v.id}>
              target of {v.name}
            </option>
          ))}
        </select>
        <select
          className="press w-full px-1.5"
          aria-label={`Fit a voice to ${drum.name}`}
          title="Makes it the voice's target and searches a recipe that sounds like it, in Sounds"
          value=""
          onChange={(e) => {
            const voice = e.target.value;
            edit([{ op: "target.set", target: { voice, reference: reference.id, drum: of } }]);
            useSelection.setState({ voice });
            useShaping.getState().set({ panel: "fit" });
            go(state.id, "sounds");
          }}
        >
          <option value="">Fit…</option>
          {sorted.map((v) => (
            <option key={v.id} value={v.id}>
              fit {v.name} to it
            </option>
          ))}
        </select>
        <select
          className="press w-full px-1.5"
          aria-label={`Take ${drum.name} as samples into a voice`}
          title="Takes the place of the voice's layers; soft strokes are a layer of their own where they are known"
          value=""
          onChange={(e) => void takeDrum(reference.id, e.target.value, of)}
        >
          <option value="">Samples into…</option>
          {sorted.map((v) => (
            <option key={v.id} value={v.id}>
              {v.name}
            </option>
          ))}
        </select>
        <Menu
          label="More"
          name={`More for ${drum.name}`}
          right
          items={[
            { text: "Name", hint: "What the drum is called", onClick: () => setNaming(true) },
            divided
              ? {
                  text: "Join",
                  hint: "Both drums of this row are one",
                  onClick: () =>
                    edit([{ op: "drums.row", reference: reference.id, family: drum.family, drums: 1 }]),
                }
              : {
                  text: "Split in two",
                  hint: "The row is two drums, as a snare and a side stick: they are told apart by their spectra",
                  disabled: drum.strokes.length < 2,
                  onClick: () =>
                    edit([{ op: "drums.row", reference: reference.id, family: drum.family, drums: 2 }]),
                },
            {
              text: "Save as WAV",
              hint: "48 kHz, 32-bit float",
              icon: <Download size={13} />,
              onClick: () => {
                window.location.href = api.drumURL(state.id, reference.id, of);
              },
            },
          ]}
        />
      </div>
      <p className="col-span-5 -mt-1 text-xs text-muted">
        {[
          ...drum.words,
          drum.soft
            ? `Soft strokes (${drum.soft.strokes}) are ${num(-drum.soft.level_db, 0)} dB softer${drum.soft.brightness_ratio ? `, ${asRatio(drum.soft.brightness_ratio, "brighter", "darker")}` : ""}${drum.soft.decay_ratio ? `, ${asRatio(drum.soft.decay_ratio, "longer", "shorter")}` : ""}.`
            : "",
          p.asked
            ? dry
              ? `Room taken off; sure of it in ${num(100 * drum.room_sure, 0)} % of the bands.`
              : "Its end is not told from the room's: as there."
            : "",
        ]
          .filter(Boolean)
          .join(" ")}
      </p>
    </section>
  );
}

/** A ratio in words, as 12 % darker. */
export function asRatio(ratio: number, more: string, less: string): string {
  const percent = Math.round(Math.abs(ratio - 1) * 100);
  if (percent < 3) return `as ${more.replace(/er$/, "")}`;
  return `${percent} % ${ratio > 1 ? more : less}`;
}

function Fact(p: {
  name: string;
  of: Schemas["Measure"] | null;
  unit: string;
  digits: number;
  note?: string;
  hint?: string;
  /** Is left out where it cannot be measured. */
  quiet?: boolean;
}) {
  if (!p.of && p.quiet) return null;
  return (
    <>
      <dt className="text-muted">{p.name}</dt>
      <dd
        className="num text-right whitespace-nowrap"
        title={
          p.of
            ? `± ${num(p.of.within, p.digits)} ${p.unit}${p.hint ? `. ${p.hint}` : ""}`
            : "Cannot be measured here: too little of it is known"
        }
      >
        {p.of ? `${num(p.of.value, p.digits)} ${p.unit}${p.note ? ` ${p.note}` : ""}` : "–"}
      </dd>
    </>
  );
}

/** The drum's wave: what is known dark, what is guessed pale. */
function DrumWave({ drum, dry }: { drum: Drum; dry: boolean }) {
  const points = (dry ? drum.dry_wave : drum.wave).points as [number, number][];
  const peak = Math.max(...points.map((q) => Math.max(Math.abs(q[0]), Math.abs(q[1]))), 1e-6);
  const y = (v: number) => 34 - (v / peak) * 31;
  const known = Math.min(drum.known.to_ms, drawn);
  const edge = (known / drawn) * points.length;
  const shape = (from: number, to: number) => {
    const part = points.slice(from, to);
    return [
      ...part.map((q, i) => `${((from + i) * waveWidth) / points.length},${y(q[1]).toFixed(1)}`),
      ...part
        .map((q, i) => `${((from + i) * waveWidth) / points.length},${(y(q[0]) + 0.7).toFixed(1)}`)
        .reverse(),
    ].join(" ");
  };
  const x = (known / drawn) * waveWidth;
  return (
    <figure className="m-0" aria-label={`Wave of ${drum.name}, known to ${num(known, 0)} ms`}>
      <svg
        viewBox={`0 0 ${waveWidth} 68`}
        preserveAspectRatio="none"
        className="h-[60px] w-full"
        aria-hidden="true"
      >
        <polygon points={shape(0, Math.ceil(edge))} fill="var(--ref)" />
        <polygon points={shape(Math.floor(edge), points.length)} fill="var(--ref)" fillOpacity={0.32} />
        {known < drawn && (
          <line
            x1={x}
            x2={x}
            y1={0}
            y2={68}
            stroke="var(--line-strong)"
            strokeDasharray="3 3"
            vectorEffect="non-scaling-stroke"
          />
        )}
      </svg>
      <figcaption className="num flex justify-between text-2xs text-muted">
        <span>0</span>
        <span>{known > 0 ? `known to ${num(drum.known.to_ms, 0)} ms` : "a guess"}</span>
        <span>{drawn} ms</span>
      </figcaption>
    </figure>
  );
}

/**
 * The strokes as small sticks over the recording. A click leaves the nearest one out or takes
 * it back, a drag all under it; arrow keys go from one to the next.
 */
function Sticks({ drum, reference }: { drum: Drum; reference: string }) {
  const edit = useProject((s) => s.edit);
  const [at, setAt] = useState(0);
  const [drag, setDrag] = useState<{ from: number; to: number } | null>(null);
  const strokes = drum.strokes;
  const last = Math.max(...strokes.map((s) => s.time_s), 0.1);
  const x = (s: Schemas["Stroke"]) => s.time_s / last;
  const set = (some: Schemas["Stroke"][]) => {
    const out = !some[0]?.out;
    if (some.length > 0) edit(some.map((s) => ({ op: "drums.stroke" as const, reference, hit: s.hit, out })));
  };
  const part = (e: React.PointerEvent) => {
    const box = e.currentTarget.getBoundingClientRect();
    return Math.min(Math.max((e.clientX - box.left) / Math.max(box.width, 1), 0), 1);
  };
  const under = ({ from, to }: { from: number; to: number }) =>
    strokes.filter((s) => x(s) >= Math.min(from, to) && x(s) <= Math.max(from, to));
  const nearest = (place: number) =>
    strokes.reduce(
      (best, s, i) => (Math.abs(x(s) - place) < Math.abs(x(strokes[best] ?? s) - place) ? i : best),
      0,
    );
  const dragging = useDrag<{ from: number; to: number }>({
    start: (e) => ({ from: part(e), to: part(e) }),
    move: (d, e) => {
      d.to = part(e);
      setDrag({ ...d });
    },
    drop: (d) => {
      setDrag(null);
      const one = nearest(d.from);
      setAt(one);
      set(Math.abs(d.to - d.from) < 0.01 ? strokes.slice(one, one + 1) : under(d));
    },
    cancel: () => setDrag(null),
  });
  const says = (s: Schemas["Stroke"]) =>
    `${num(s.time_s, 2)} s, ${num(s.level_db, 1, true)} dB, ${num(100 * s.match, 0)} % alike: ${s.out ? "left out" : s.used ? "used" : "not used"}`;
  const id = (i: number) => `stroke-${drum.family}-${drum.group}-${i}`;
  const here = strokes[at];
  return (
    <div
      role="listbox"
      tabIndex={0}
      aria-label={`Strokes of ${drum.name}`}
      aria-multiselectable="true"
      aria-activedescendant={here && id(at)}
      title={`${here ? `${says(here)}. ` : ""}Click a stroke to leave it out or take it back, drag over several; arrow keys and Enter`}
      className="group relative mt-0.5 h-[20px] touch-none cursor-pointer"
      {...dragging}
      onKeyDown={(e) => {
        const to = { ArrowLeft: at - 1, ArrowRight: at + 1, Home: 0, End: strokes.length - 1 }[e.key];
        if (to !== undefined) {
          e.preventDefault();
          e.stopPropagation();
          setAt(Math.min(Math.max(to, 0), strokes.length - 1));
        } else if (e.key === "Enter" && here) {
          e.preventDefault();
          set([here]);
        }
      }}
    >
      {drag && (
        <span
          className="absolute inset-y-0 bg-ref/20"
          style={{
            left: `${100 * Math.min(drag.from, drag.to)}%`,
            width: `${100 * Math.abs(drag.to - drag.from)}%`,
          }}
        />
      )}
      {strokes.map((s, i) => (
        <span
          key={s.hit}
          id={id(i)}
          role="option"
          tabIndex={-1}
          aria-selected={!s.out}
          aria-label={`Stroke at ${says(s)}`}
          className={`pointer-events-none absolute bottom-0 w-[2px] ${i === at ? "outline-1 outline-offset-1 outline-transparent group-focus:outline-ref" : ""}`}
          style={{
            left: `calc(${100 * x(s)}% - ${2 * x(s)}px)`,
            height: Math.min(Math.max(5, 16 + s.level_db * 0.5), 17),
            background: s.out ? "var(--line-strong)" : "var(--ref)",
            opacity: s.out ? 0.7 : s.used ? 1 : 0.3,
            clipPath: s.out ? "inset(0 0 calc(100% - 4px) 0)" : undefined,
          }}
        />
      ))}
    </div>
  );
}

/** Third octaves: bars that are known dark, half known pale, hidden hatched. */
function Octaves({ drum }: { drum: Drum }) {
  const bands = drum.third_octaves.filter((b) => b.hz >= 40 && b.hz <= 16500);
  const low = -48;
  const w = 170 / Math.max(bands.length, 1);
  const id = `hidden-${drum.family}-${drum.group}`;
  return (
    <figure className="m-0" aria-label={`Third octaves of ${drum.name}`}>
      <svg viewBox="0 0 170 66" className="h-[66px] w-full" aria-hidden="true">
        <defs>
          <pattern id={id} width={5} height={5} patternUnits="userSpaceOnUse">
            <path d="M0 5 L5 0" stroke="var(--line-strong)" strokeWidth={1} />
          </pattern>
        </defs>
        {bands.map((b, i) => {
          const h = Math.max(((b.db - low) / -low) * 64, 2);
          const hidden = b.known < 0.3;
          return (
            <rect
              key={b.hz}
              x={i * w + 0.6}
              width={w - 1.2}
              y={hidden ? 4 : 66 - h}
              height={hidden ? 62 : h}
              fill={hidden ? `url(#${id})` : "var(--ref)"}
              fillOpacity={hidden ? 1 : b.known < 0.7 ? 0.45 : 0.9}
            >
              <title>{`${num(b.hz, 0)} Hz: ${hidden ? "hidden" : `${num(b.db, 0)} dB`}, ${num(100 * b.known, 0)} % known`}</title>
            </rect>
          );
        })}
      </svg>
      <figcaption className="num flex justify-between text-2xs text-muted">
        <span>40 Hz</span>
        <span>16 kHz</span>
      </figcaption>
    </figure>
  );
}
