// What the selected hits have: strokes, rolls and flams, notes, chance, another sound.
import type { State } from "../../api/client";
import { noteNames, num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { ParamField } from "../../parts/ParamField";
import { useProject } from "../../state/project";
import { useInfo, useRoot } from "../../state/queries";
import { chosen, useSelection } from "../../state/selection";
import { isDropped, isRoll } from "./layout";

const hints: Record<string, string> = {
  still_percent: "How much of the row's scatter does not move this hit",
  length_ticks: "In sixteenths; 0 lets it ring",
  cut: "Stopped at the end of its length; else it dies away until then",
  glide_ms: "How long the pitch takes to the next note",
  fall_st: "Begins so far above its pitch",
  fall_ms: "And takes so long to get there",
  reverse: "Plays in reverse and ends on its place; starts one length (or one beat) earlier",
  "roll.strokes": "Over its length; strokes a beat come first",
  "roll.spacing_percent": "The last distance over the first: less than 100 speeds up",
};

const groups: [string, string[]][] = [
  ["", ["velocity", "nudge_ms", "still_percent"]],
  ["Note", ["semitones", "length_ticks", "cut", "glide_ms", "fall_st", "fall_ms", "reverse"]],
];

export function HitPanel({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const sel = useSelection();
  const table = useInfo().data?.tables.hit ?? [];
  const picked = chosen(state, sel.hits);
  const one = picked[0];
  const root = useRoot(one?.ref.voice ?? "");
  const voices = state.document.kit.voices;
  if (!one)
    return (
      <section aria-label="Hits">
        <h2 className="text-xl">No hit selected</h2>
        <p className="mt-1 text-xs text-muted">
          Click a head, or drag a box with Select. What is set here acts on all that are selected. G makes a
          ghost, H an accent, D drops it, R rolls it.
        </p>
      </section>
    );
  const set = (number: string) => (value: number, gesture: string) =>
    edit([{ op: "hit.set", hits: sel.hits, number, value }], gesture);
  const values: Record<string, number> = {
    velocity: one.hit.velocity,
    nudge_ms: one.hit.nudge_ms,
    still_percent: one.hit.still_percent ?? 0,
    semitones: one.hit.semitones,
    length_ticks: one.hit.length_ticks ?? 0,
    cut: one.hit.cut ? 1 : 0,
    glide_ms: one.hit.glide_ms ?? 0,
    fall_st: one.hit.fall_st ?? 0,
    fall_ms: one.hit.fall_ms ?? 0,
    reverse: one.hit.reverse ? 1 : 0,
    times: one.hit.times ?? 0,
    of: one.hit.of ?? 0,
    "flam.strokes": one.hit.flam?.strokes ?? 0,
    "flam.spacing_ms": one.hit.flam?.spacing_ms ?? 0,
    "flam.level_db": one.hit.flam?.level_db ?? 0,
    "roll.strokes": one.hit.roll?.strokes ?? 0,
    "roll.per_beat": one.hit.roll?.per_beat ?? 0,
    "roll.velocity_to": one.hit.roll?.velocity_to ?? 0,
    "roll.pitch_to_st": one.hit.roll?.pitch_to_st ?? 0,
    "roll.spacing_percent": one.hit.roll?.spacing_percent ?? 0,
  };
  const field = (id: string) => {
    const param = table.find((p) => p.id === id);
    if (id === "length_ticks" && param)
      return (
        <NumberField
          key={id}
          label={param.label}
          value={(values[id] ?? 0) / 240}
          unit="16ths"
          min={0}
          max={64}
          digits={2}
          step={1}
          reset={0}
          hint={hints[id] ?? ""}
          onChange={(v, gesture) => set(id)(Math.round(v * 240), gesture)}
        />
      );
    return (
      param && (
        <ParamField
          key={id}
          param={param}
          at=""
          value={values[id] ?? 0}
          hint={hints[id] ?? ""}
          {...(id === "semitones" ? { step: 1 } : {})}
          onChange={set(id)}
        />
      )
    );
  };
  const rolls = isRoll(one.hit);
  const flams = (one.hit.flam?.strokes ?? 0) > 0;
  const numbers = (list: Record<string, number>) =>
    edit(Object.entries(list).map(([number, value]) => ({ op: "hit.set", hits: sel.hits, number, value })));
  const note = Math.round(root + one.hit.semitones);
  return (
    <section aria-label="Hits" className="flex flex-col gap-1">
      <h2 className="text-xl">{picked.length === 1 ? "1 hit" : `${picked.length} hits`}</h2>
      <div className="flex flex-wrap gap-1">
        {(["ghost", "accent", "plain", "drop"] as const).map((as) => (
          <button
            key={as}
            type="button"
            className="press h-7 px-2 text-xs"
            aria-pressed={as === "drop" && isDropped(one.hit)}
            onClick={() => edit([{ op: "hit.accent", hits: sel.hits, as }])}
          >
            {{ ghost: "Ghost", accent: "Accent", plain: "Normal", drop: "Mute" }[as]}
          </button>
        ))}
      </div>
      {groups.map(([title, ids]) => (
        <div key={title} className={title ? "border-t border-line pt-1" : ""}>
          {title && (
            <h3 className="flex text-sm">
              <span className="grow">{title}</span>
              <span className="num text-xs text-muted">
                {noteNames[((note % 12) + 12) % 12]}
                {Math.floor(note / 12) - 1}
              </span>
            </h3>
          )}
          {ids.map(field)}
        </div>
      ))}
      <div className="border-t border-line pt-1">
        <h3 className="flex items-center text-sm">
          <span className="grow">Roll</span>
          {rolls ? (
            <button
              type="button"
              className="press h-7 px-2 text-xs"
              onClick={() => numbers({ "roll.per_beat": 0, "roll.strokes": 0 })}
            >
              One stroke
            </button>
          ) : (
            [6, 8, 12].map((n) => (
              <button
                key={n}
                type="button"
                className="press ml-1 h-7 px-2 text-xs"
                title={`${n} strokes a beat`}
                onClick={() => numbers({ "roll.per_beat": n, length_ticks: one.hit.length_ticks || 480 })}
              >
                {n} a beat
              </button>
            ))
          )}
        </h3>
        {rolls &&
          [
            "roll.per_beat",
            "roll.strokes",
            "roll.velocity_to",
            "roll.pitch_to_st",
            "roll.spacing_percent",
          ].map(field)}
      </div>
      <div className="border-t border-line pt-1">
        <h3 className="flex items-center text-sm">
          <span className="grow">Flam</span>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            onClick={() =>
              numbers(
                flams
                  ? { "flam.strokes": 0 }
                  : { "flam.strokes": 1, "flam.spacing_ms": 18, "flam.level_db": -12 },
              )
            }
          >
            {flams ? "No flam" : "Make a flam"}
          </button>
        </h3>
        {flams && ["flam.strokes", "flam.spacing_ms", "flam.level_db"].map(field)}
        {(flams || rolls) && (
          <button
            type="button"
            className="press mt-1 h-7 px-2 text-xs"
            onClick={() => edit([{ op: "hit.open", hits: sel.hits }])}
          >
            Convert to single hits
          </button>
        )}
      </div>
      <div className="border-t border-line pt-1">
        <h3 className="text-sm">Repeats and sound</h3>
        <div className="flex items-center gap-1.5 py-1 text-sm">
          <span className="grow">Plays</span>
          <select
            className="press h-7 px-1.5"
            aria-label="Plays on"
            value={values.of ? `${values.times}/${values.of}` : "1/1"}
            onChange={(e) => {
              const [times = 0, of = 0] = e.target.value.split("/").map(Number);
              const all = times >= of;
              edit([
                { op: "hit.set", hits: sel.hits, number: "of", value: all ? 0 : of },
                { op: "hit.set", hits: sel.hits, number: "times", value: all ? 0 : times },
              ]);
            }}
          >
            {["1/1", "1/2", "1/3", "2/3", "1/4", "3/4", "1/8", "7/8", "0/1"].map((c) => (
              <option key={c} value={c}>
                {c === "1/1" ? "every time" : c === "0/1" ? "dropped" : `${c.replace("/", " of ")} times`}
              </option>
            ))}
          </select>
        </div>
        <label className="flex items-center gap-1.5 py-1 text-sm">
          <span className="grow">Strikes</span>
          <select
            className="press h-7 max-w-[150px] px-1.5"
            aria-label="Strikes the sound of"
            value={one.hit.sound ?? ""}
            onChange={(e) => edit([{ op: "hit.sound", hits: sel.hits, sound: e.target.value }])}
          >
            <option value="">its own sound</option>
            {voices
              .filter((v) => v.id !== one.ref.voice)
              .map((v) => (
                <option key={v.id} value={v.id}>
                  {v.name}
                </option>
              ))}
          </select>
        </label>
        <label className="flex items-center gap-1.5 py-1 text-sm">
          <span className="grow">Every second hit plays</span>
          <select
            className="press h-7 max-w-[120px] px-1.5"
            aria-label="Every second hit plays"
            value=""
            onChange={(e) =>
              e.target.value && edit([{ op: "hit.sound", hits: sel.hits, sound: e.target.value, every: 2 }])
            }
          >
            <option value="">…</option>
            {voices
              .filter((v) => v.id !== one.ref.voice)
              .map((v) => (
                <option key={v.id} value={v.id}>
                  {v.name}
                </option>
              ))}
          </select>
        </label>
      </div>
      <div className="border-t border-line pt-1">
        <h3 className="text-sm">Stretch and quantize</h3>
        <div className="flex flex-wrap gap-1 py-1">
          {[50, 75, 150, 200].map((percent) => (
            <button
              key={percent}
              type="button"
              className="press num h-7 px-2 text-xs"
              disabled={picked.length < 2 && !one.hit.length_ticks}
              title="Distances from the first, and lengths"
              onClick={() => edit([{ op: "hit.stretch", hits: sel.hits, percent }])}
            >
              {num(percent, 0)} %
            </button>
          ))}
        </div>
        <div className="flex flex-wrap gap-1">
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="Takes nudges away: they fall where the feel says (Q)"
            onClick={() => edit([{ op: "hit.straighten", hits: sel.hits, percent: 100, towards: "feel" }])}
          >
            Quantize to feel
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="They fall on the grid whatever the feel says"
            onClick={() => edit([{ op: "hit.straighten", hits: sel.hits, percent: 100, towards: "grid" }])}
          >
            Quantize to grid
          </button>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            title="Half of the way to the feel"
            onClick={() => edit([{ op: "hit.straighten", hits: sel.hits, percent: 50, towards: "feel" }])}
          >
            50 % to feel
          </button>
        </div>
      </div>
    </section>
  );
}
