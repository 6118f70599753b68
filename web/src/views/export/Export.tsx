import { useQuery } from "@tanstack/react-query";
import { Download, TriangleAlert } from "lucide-react";
import { useState } from "react";
import { api, type Schemas, type State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { count, minutes, num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { useInfo, usePiece, useSettled } from "../../state/queries";
import { barTicks, ppq, secondsOf } from "../../state/ticks";

const formats = [
  ["wav16", "16 bit", "For samplers and small files"],
  ["wav24", "24 bit", "For most work"],
  ["wav32f", "32 float", "Never clips"],
] as const;

interface Item {
  what: string;
  title: string;
  text: string;
  /** Whether its level is measured. */
  wants: boolean;
  level?: Schemas["FileLevel"] | undefined;
}

export function Export({ state }: { state: State }) {
  const limits = useInfo().data?.limits;
  const [format, setFormat] = useState<string>("wav24");
  const [chosen, setBars] = useState(0);
  const [lower, setLower] = useState(false);
  const [pickup, setPickup] = useState(false);
  const [tracks, setTracks] = useState(false);
  const [notes, setNotes] = useState(false);
  const [chain, setChain] = useState(false);
  const [backings, setBackings] = useState(false);
  const [of, setOf] = useState<"groove" | "piece">("groove");
  const piece = usePiece().data;
  const [velocity, setVelocity] = useState(110);
  const struck = useSettled(velocity, 250);
  const doc = state.document;
  const meter = doc.groove.meter;
  const bar = barTicks(meter);
  const cycle = Math.ceil(state.cycle_ticks / bar);
  // What would never end is not offered as a cycle.
  const endless = limits !== undefined && cycle > limits.bars;
  const bars = chosen || (endless ? doc.groove.bars : 0);
  const length = bars || cycle;
  const seconds = secondsOf(length * bar, doc.tempo[0]?.bpm ?? 120);
  const heard = doc.kit.voices.filter((v) => !v.mute).length;
  const buses = doc.mix.buses.filter((b) => !b.mute).length;
  const empty = doc.groove.lanes.every((l) => l.hits.length === 0);
  const version = useSettled(state.version, 250);
  const levels = useQuery({
    queryKey: ["levels", state.id, version, bars, struck, chain],
    queryFn: () => api.levels(state.id, bars, struck, chain),
    retry: false,
  });
  const missing = levels.data?.missing ?? [];
  const over = [levels.data?.loop, levels.data?.stems, levels.data?.one_shots].map(
    (l) => l?.peak_dbfs ?? -100,
  );
  const above = Math.max(...over);
  // A little below full scale, so that rounding does no harm.
  const gain = lower && above > 0 ? -Math.ceil((above + 0.05) * 10) / 10 : 0;
  const early = doc.groove.lanes.some(
    (l, i) => l.hits[0]?.tick === 0 && (state.falls[i]?.[0]?.offset_ms ?? 0) < 0,
  );
  const sections = doc.arrangement.sections.length;
  const long = piece ? `${count(piece.bars.length - 1, "bar")}, ${minutes(piece.seconds)}` : "…";
  const whole = {
    what: "project",
    title: "Project",
    text: "The whole project with the sound of its references, to keep or to render on the command line.",
    wants: false,
  };
  const ofPiece = [
    {
      what: "piece",
      title: "Whole piece",
      text: `${long}, stereo, 48 kHz, with what rings on behind the last bar.`,
      wants: false,
    },
    {
      what: "sections",
      title: "Section by section",
      text: `${count(sections, "file")}, numbered and named, that are the piece one after another. A zip.`,
      wants: false,
    },
    {
      what: "piece-stems",
      title: "Stems of the piece",
      text: `One stereo file for each of ${heard} voices${buses ? ` and ${count(buses, "bus", "buses")}` : ""}, as long as the piece, in time to the sample. A zip.`,
      wants: false,
    },
    {
      what: "piece-midi",
      title: "MIDI of the piece",
      text: `${long}, with the tempo map, the meters, and a marker for each section. Ramps are written as a change every sixteenth.`,
      wants: false,
    },
    whole,
  ];
  const ofGroove = [
    {
      what: "loop",
      title: "Loop",
      text: `${num(length, 0)} bars, ${num(seconds, 2)} s, stereo, 48 kHz. What rings over the end is at the start, so it loops without a seam.`,
      wants: true,
      level: levels.data?.loop,
    },
    {
      what: "stems",
      title: "Stems",
      text: `One stereo file for each of ${heard} voices${buses ? ` and ${buses} ${buses === 1 ? "bus" : "buses"}` : ""}, in time to the sample. ${
        buses ? "Those that go to the output" : "Together they"
      } are the loop${doc.mix.out.chain.length ? ", before the output's own effects" : ""}. A zip.`,
      wants: true,
      level: levels.data?.stems,
    },
    {
      what: "one-shots",
      title: "One-shots",
      text: `One hit of each of ${doc.kit.voices.length} voices, numbered, as long as it rings. A zip.`,
      wants: true,
      level: levels.data?.one_shots,
    },
    {
      what: "midi",
      title: "MIDI",
      text: `${num(length, 0)} bars on channel 10 with General MIDI drum keys, or yours; ${ppq} ticks to a quarter note, so that swing, lean and scatter are in the note times; rolls and flams are played out. ${
        early
          ? pickup
            ? "A bar of its own stands in front for the hits before the first downbeat."
            : "Hits before the first downbeat stand at the loop's end, as in the sound file."
          : ""
      }`,
      wants: false,
    },
    whole,
  ];
  const items: Item[] = of === "piece" ? ofPiece : ofGroove;
  return (
    <main className="min-w-0 grow overflow-y-auto px-4 py-3">
      <div className="mb-3 flex flex-wrap items-center gap-5">
        <h1 className="text-2xl">Export</h1>
        <Choice
          label="What is exported"
          value={of}
          options={[
            ["groove", "Groove", "The loop of the groove in hand"],
            ["piece", "Piece", "The arrangement"],
          ]}
          onChange={setOf}
        />
        <Choice label="Sample format" value={format} options={formats} onChange={setFormat} />
        <div className={`flex w-[300px] items-center gap-3 ${of === "piece" ? "invisible" : ""}`}>
          <div className="w-[130px]">
            <NumberField
              compact
              label="Bars"
              value={length}
              unit=""
              min={1}
              max={limits?.bars ?? 1}
              digits={0}
              step={1}
              log
              onChange={(v) => setBars(Math.round(v))}
            />
          </div>
          <button
            type="button"
            className="press"
            disabled={chosen === 0 || endless}
            title={
              endless
                ? `The lanes realign only after ${cycle > 1e6 ? "years" : `${cycle} bars`}`
                : "As long as all lanes need to realign"
            }
            onClick={() => setBars(0)}
          >
            One cycle
          </button>
        </div>
      </div>
      {endless && (
        <p className="mb-3 max-w-[860px] text-sm text-muted">
          The lanes have lengths that realign only after {cycle > 1e6 ? "years" : `${cycle} bars`}; a file
          holds as many bars as you choose, and each lane begins anew with it.
        </p>
      )}
      {above > 0 && (
        <div
          className="mb-3 flex max-w-[860px] items-center gap-3 rounded-lg border border-late px-4 py-2.5"
          role="status"
        >
          <TriangleAlert size={18} className="shrink-0 text-late" aria-hidden="true" />
          <p className="grow text-sm">
            {lower ? (
              <>
                All sound files are lowered by <span className="num">{num(-gain)}</span> dB, so that the
                loudest ends just under full scale.
              </>
            ) : (
              <>
                Up to <span className="num">{num(above)}</span> dB above full scale.{" "}
                {format === "wav32f"
                  ? "32-bit float keeps what lies beyond; most players cut it off."
                  : "What lies beyond is cut off and heard as distortion."}
              </>
            )}
          </p>
          <button type="button" className="press" aria-pressed={lower} onClick={() => setLower(!lower)}>
            {lower ? "Leave the level" : `Lower by ${num(Math.ceil((above + 0.05) * 10) / 10)} dB`}
          </button>
        </div>
      )}
      {missing.length > 0 && (
        <div
          className="mb-3 flex max-w-[860px] items-center gap-3 rounded-lg border border-late px-4 py-2.5"
          role="status"
        >
          <TriangleAlert size={18} className="shrink-0 text-late" aria-hidden="true" />
          <p className="grow text-sm">
            The sound of {missing.length === 1 ? "a layer" : `${missing.length} layers`} is missing, and the
            files come out without it: {missing.map((l) => `${l.voice}, layer “${l.layer}”`).join("; ")}. Load
            it again in Sounds, or take the layer out.
          </p>
        </div>
      )}
      {empty && (
        <p className="mb-3 text-base">
          The groove is empty, so the loop would be silence. Draw a groove or take one from the reference
          first.
        </p>
      )}
      <ul className="flex max-w-[860px] flex-col gap-2">
        {items.map((i) => (
          <li key={i.what} className="rowbox flex items-center gap-4 px-4 py-3">
            <div className="grow">
              <h2 className="text-lg">{i.title}</h2>
              <p className="text-sm text-muted">{i.text}</p>
              {i.wants && <LevelLine level={i.level} gain={gain} failed={levels.error?.message} />}
              {i.what === "one-shots" && (
                <div className="mt-1 flex flex-wrap items-center gap-x-4 gap-y-1">
                  <div className="w-[150px]">
                    <NumberField
                      compact
                      label="Velocity"
                      value={velocity}
                      unit=""
                      min={1}
                      max={127}
                      digits={0}
                      step={1}
                      onChange={(v) => setVelocity(Math.round(v))}
                    />
                  </div>
                  <Tick on={chain} text="through the effects of their rows" onChange={setChain} />
                </div>
              )}
              {i.what === "piece" && doc.arrangement.backings.length > 0 && (
                <div className="mt-1">
                  <Tick on={backings} text="with what stands behind the drums" onChange={setBackings} />
                </div>
              )}
              {i.what === "piece-midi" && (
                <div className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
                  <Tick on={tracks} text="a track for each voice" onChange={setTracks} />
                  <Tick
                    on={notes}
                    text="rows with pitches as notes, on channels of their own"
                    onChange={setNotes}
                  />
                </div>
              )}
              {i.what === "midi" && (
                <div className="mt-1 flex flex-wrap gap-x-4 gap-y-1">
                  <Tick on={tracks} text="a track for each voice" onChange={setTracks} />
                  <Tick
                    on={notes}
                    text="rows with pitches as notes, on channels of their own"
                    onChange={setNotes}
                  />
                  {early && (
                    <Tick
                      on={pickup}
                      text="a pickup bar in front, to be played once rather than looped"
                      onChange={setPickup}
                    />
                  )}
                </div>
              )}
            </div>
            <span className="num w-16 text-right text-xs text-muted">
              {i.what === "project"
                ? ".jubrak"
                : i.what.endsWith("midi")
                  ? ".mid"
                  : formats.find((f) => f[0] === format)?.[1]}
            </span>
            <a
              className="press press-strong"
              href={api.exportURL(state.id, i.what, {
                format,
                bars,
                gain,
                pickup,
                tracks,
                notes,
                velocity,
                chain,
                backings,
              })}
              download
            >
              <Download size={15} /> Download
            </a>
          </li>
        ))}
      </ul>
    </main>
  );
}

/** How loud a set of files comes out. */
function LevelLine(p: { level: Schemas["FileLevel"] | undefined; gain: number; failed: string | undefined }) {
  if (p.failed) return <p className="text-xs text-error">{p.failed}</p>;
  if (!p.level) return <p className="text-xs text-muted">measuring its level…</p>;
  if (p.level.peak_dbfs === null) return <p className="text-xs text-muted">silent</p>;
  const peak = p.level.peak_dbfs + p.gain;
  return (
    <p className={`text-xs ${peak > 0 ? "text-late" : "text-muted"}`}>
      peak <span className="num">{num(peak, 1, true)}</span> dBFS
      {peak > 0 && (
        <>
          , <span className="num">{p.level.over_samples.toLocaleString("en-GB")}</span> samples beyond full
          scale
        </>
      )}
    </p>
  );
}

function Tick(p: { on: boolean; text: string; onChange: (on: boolean) => void }) {
  return (
    <label className="flex w-fit cursor-pointer items-center gap-1.5 text-sm">
      <input
        type="checkbox"
        className="checkbox checkbox-xs"
        checked={p.on}
        onChange={(e) => p.onChange(e.target.checked)}
      />
      {p.text}
    </label>
  );
}
