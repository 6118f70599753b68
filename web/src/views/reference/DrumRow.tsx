// A drum of the reference: what is known of it, and what can be made of it.
import { Download } from "lucide-react";
import { useState } from "react";
import { api, type Schemas, type State } from "../../api/client";
import type { useHearing } from "../../live/useHearing";
import { Glyph } from "../../parts/family";
import { num } from "../../parts/format";
import { Menu } from "../../parts/Menu";
import { useProject } from "../../state/project";
import { go } from "../../state/route";
import { useSelection } from "../../state/selection";
import { useShaping } from "../../state/shaping";
import { type Drum, DrumWave, Octaves, Sticks } from "./DrumPlots";

export function DrumRow(p: {
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
                  hint: "The row is two drums, as a snare and a side stick: which differ in their spectra",
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
              : "Its end cannot be separated from the room: left as it is."
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

export function Fact(p: {
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
