// The whole piece: its speed, kept orders, markers, and a run through the variations that
// is written down as sections.
import { useEffect, useRef, useState } from "react";
import type { Document, Schemas } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { eachFrame } from "../../live/useEvery";
import { count, minutes, num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { TextBox } from "../../parts/TextBox";
import { useProject } from "../../state/project";
import { type Facts, placeText } from "../../time/piece";
import { nextName, variationName } from "./layout";
import { playFrom } from "./playFrom";
import { useArrange } from "./store";

export function WholePanel({ doc, facts }: { doc: Document; facts: Facts }) {
  const edit = useProject((s) => s.edit);
  const chosen = useArrange();
  const [name, setName] = useState("");
  const { speed, orders, markers, sections } = doc.arrangement;
  const semitones = speed.semitones ?? 0;
  const percent = speed.tempo_percent || 100;
  const setSpeed = (semitones: number, tempo_percent: number, gesture: string) =>
    edit([{ op: "piece.speed", semitones, tempo_percent }], gesture);
  return (
    <>
      <section>
        <h2 className="mb-1 text-sm">Speed of the whole</h2>
        <NumberField
          label="Tape"
          hint="Tempo and pitch together, as a tape that runs faster"
          value={semitones}
          unit="st"
          min={-24}
          max={24}
          step={1}
          reset={0}
          digits={2}
          onChange={(v, g) => setSpeed(Math.round(v * 100) / 100, percent, g)}
        />
        <NumberField
          label="Tempo alone"
          hint="The tempo without the pitch"
          value={percent}
          unit="%"
          min={50}
          max={200}
          step={1}
          reset={100}
          onChange={(v, g) => setSpeed(semitones, Math.round(v * 10) / 10, g)}
        />
        <p className="num text-xs text-muted">
          {minutes(facts.seconds)}, from {num(facts.spans[0]?.from_bpm)} BPM
          {semitones !== 0 && `, ${num(semitones, 2, true)} st`}
        </p>
      </section>
      <Run doc={doc} />
      <section className="border-t border-line pt-1.5">
        <h2 className="mb-1 text-sm">Orders</h2>
        <p className="mb-1 text-xs text-muted">Keep this one, try another, go back.</p>
        <div className="flex items-center gap-1.5">
          <input
            className="press h-7 min-w-0 grow cursor-text px-2 text-xs"
            aria-label="Name of the order to keep"
            placeholder={`Order ${orders.length + 1}`}
            maxLength={40}
            value={name}
            onChange={(e) => setName(e.target.value)}
          />
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            onClick={() => {
              edit([{ op: "order.keep", name: name.trim() || `Order ${orders.length + 1}` }]);
              setName("");
            }}
          >
            Keep
          </button>
        </div>
        {orders.map((o) => (
          <div key={o.id} className="flex items-center gap-1.5 text-xs">
            <span className="grow truncate">
              {o.name}{" "}
              <span className="num text-muted">
                {count(
                  o.sections.reduce((n, s) => n + s.bars, 0),
                  "bar",
                )}
              </span>
            </span>
            <button
              type="button"
              className="cursor-pointer text-2xs underline decoration-dotted"
              title="Go on with it; the one that plays now is kept"
              onClick={() => edit([{ op: "order.use", order: o.id, keep: `Before ${o.name}`.slice(0, 40) }])}
            >
              use
            </button>
            <button
              type="button"
              className="cursor-pointer text-2xs text-muted underline decoration-dotted"
              onClick={() => edit([{ op: "order.remove", order: o.id }])}
            >
              remove
            </button>
          </div>
        ))}
      </section>
      <section className="border-t border-line pt-1.5">
        <h2 className="mb-1 text-sm">Markers</h2>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          title="K"
          onClick={() =>
            edit([{ op: "marker.add", name: `Marker ${markers.length + 1}`, at: Math.round(chosen.cursor) }])
          }
        >
          Marker at {placeText(facts, chosen.cursor)}
        </button>
        {markers.map((m) => {
          const from = facts.spans.find((s) => s.section === m.section)?.from ?? 0;
          return (
            <div key={m.id} className="flex items-center gap-1.5 text-xs">
              <TextBox
                label={`Name of marker ${m.name}`}
                value={m.name}
                width={110}
                onCommit={(name) =>
                  name !== "" &&
                  edit([
                    { op: "marker.remove", marker: m.id },
                    { op: "marker.add", name, at: from + m.tick },
                  ])
                }
              />
              <span className="num grow text-muted">{placeText(facts, from + m.tick)}</span>
              <button
                type="button"
                className="cursor-pointer text-2xs underline decoration-dotted"
                onClick={() => playFrom(from + m.tick)}
              >
                play
              </button>
              <button
                type="button"
                className="cursor-pointer text-2xs text-muted underline decoration-dotted"
                onClick={() => edit([{ op: "marker.remove", marker: m.id }])}
              >
                remove
              </button>
            </div>
          );
        })}
      </section>
      <p className="text-xs text-muted">{count(sections.length, "section")}</p>
    </>
  );
}

/** A stretch of a run: which variation, for how many bars. */
export interface Leg {
  variation: string;
  bars: number;
}

/** The legs of a run with one more bar of a variation. */
export function withBar(legs: readonly Leg[], variation: string): Leg[] {
  const last = legs.at(-1);
  if (last?.variation === variation) return [...legs.slice(0, -1), { variation, bars: last.bars + 1 }];
  return [...legs, { variation, bars: 1 }];
}

/**
 * A run: the groove plays, letters switch the variation at the end of the bar, and each
 * bar that has begun is written down.
 */
function Run({ doc }: { doc: Document }) {
  const edit = useProject((s) => s.edit);
  const [legs, setLegs] = useState<Leg[] | null>(null);
  const playing = useMonitor((m) => m.playing);
  const variations = doc.variations.filter((v) => !v.here);
  const latest = useRef({ doc, legs });
  latest.current = { doc, legs };
  const running = legs !== null;
  // A bar of the groove has begun when its bar is another one, or it has gone round.
  useEffect(() => {
    if (!running) return;
    let bar = -1;
    let position = -1;
    const look = () => {
      const r = monitor.report;
      if (!r.playing || r.piece) return;
      const g = latest.current.doc.groove;
      const now = Math.floor(r.position / (g.meter.beats * (3840 / g.meter.unit)));
      if (now !== bar || r.position < position - 1) {
        bar = now;
        setLegs((l) => (l ? withBar(l, latest.current.doc.variation) : l));
      }
      position = r.position;
    };
    const timer = setInterval(look, eachFrame);
    return () => clearInterval(timer);
  }, [running]);
  useEffect(() => {
    if (!running) return;
    const onKey = (e: KeyboardEvent) => {
      if (
        e.ctrlKey ||
        e.metaKey ||
        e.altKey ||
        /^(INPUT|TEXTAREA|SELECT)$/.test((e.target as HTMLElement).tagName)
      )
        return;
      const i = "qwertzuiop".indexOf(e.key.toLowerCase());
      const v = latest.current.doc.variations.filter((v) => !v.here)[i];
      if (!v) return;
      e.preventDefault();
      e.stopPropagation();
      use(v.id);
    };
    addEventListener("keydown", onKey, true);
    return () => removeEventListener("keydown", onKey, true);
  });
  const use = (id: string) => {
    if (id !== latest.current.doc.variation) edit([{ op: "variation.use", variation: id }]);
  };
  const stop = () => {
    monitor.stop();
    const done = (latest.current.legs ?? []).filter((l) => l.bars > 0);
    setLegs(null);
    if (done.length === 0) return;
    let names = 0;
    const sections: Schemas["SectionOf"][] = done.map((l) => ({
      ...l,
      name:
        names++ === 0
          ? nextName({ ...doc, arrangement: { ...doc.arrangement, sections: [] } })
          : `Section ${names}`,
    }));
    edit([
      { op: "order.keep", name: "Before the run" },
      { op: "sections.set", sections, title: "a run" },
    ]);
    monitor.setPiece(true);
  };
  return (
    <section className="border-t border-line pt-1.5">
      <h2 className="mb-1 text-sm">A run</h2>
      {!running ? (
        <>
          <p className="mb-1 text-xs text-muted">
            The groove plays; switch variations with keys, and what you played becomes the sections.
          </p>
          <button
            type="button"
            className="press h-7 px-2 text-xs"
            disabled={variations.length < 2}
            title={variations.length < 2 ? "Make a second variation in Groove first" : ""}
            onClick={() => {
              monitor.setPiece(false);
              void monitor.play(0);
              setLegs([]);
            }}
          >
            Begin a run
          </button>
        </>
      ) : (
        <>
          <div className="flex flex-wrap gap-1">
            {variations.slice(0, 10).map((v, i) => (
              <button
                key={v.id}
                type="button"
                aria-pressed={v.id === doc.variation}
                className={`press h-7 px-2 text-xs ${v.id === doc.variation ? "bg-row!" : ""}`}
                title={`Key ${"qwertzuiop"[i]?.toUpperCase()}`}
                onClick={() => use(v.id)}
              >
                {variationName(doc, v.id)}
              </button>
            ))}
          </div>
          <p className="num my-1 text-xs" role="status">
            {legs.map((l) => `${l.variation.toUpperCase()} ${l.bars}`).join(", ") ||
              "waiting for the first bar"}
          </p>
          <button type="button" className="press h-7 px-2 text-xs" onClick={stop}>
            {playing ? "Stop and write it down" : "Write it down"}
          </button>
        </>
      )}
    </section>
  );
}
