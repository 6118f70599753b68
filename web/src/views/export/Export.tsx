import { Download } from "lucide-react";
import { useState } from "react";
import { api, type State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";

const formats = [
  ["wav16", "16 bit", "For samplers and small files"],
  ["wav24", "24 bit", "For most work"],
  ["wav32f", "32 float", "Never clips"],
] as const;

export function Export({ state }: { state: State }) {
  const [format, setFormat] = useState<string>("wav24");
  const [bars, setBars] = useState(0);
  const doc = state.document;
  const meter = doc.groove.meter;
  const barTicks = (meter.beats * 3840) / meter.unit;
  const cycle = state.cycle_ticks / barTicks;
  const length = bars || cycle;
  const seconds = (length * barTicks * 60) / ((doc.tempo[0]?.bpm ?? 120) * 960);
  const heard = doc.kit.voices.filter((v) => !v.mute).length;
  const empty = doc.groove.lanes.every((l) => l.hits.length === 0);
  const items = [
    {
      what: "loop",
      title: "Loop",
      text: `${num(length, 0)} bars, ${num(seconds, 2)} s, stereo, 48 kHz. What rings over the end is at the start, so it loops without a seam.`,
      wants: true,
    },
    {
      what: "stems",
      title: "Stems",
      text: `One stereo file for each of ${heard} voices; together they are the loop. A zip.`,
      wants: true,
    },
    {
      what: "one-shots",
      title: "One-shots",
      text: `One hit of each of ${doc.kit.voices.length} voices, mono, numbered. A zip.`,
      wants: true,
    },
    {
      what: "midi",
      title: "MIDI",
      text: "One cycle on channel 10 with General MIDI drum keys. Swing, lean and scatter are in the note times, to about 0.1 ms.",
      wants: false,
    },
    {
      what: "project",
      title: "Project",
      text: "The whole project with the sound of its references, to keep or to render on the command line.",
      wants: false,
    },
  ];
  return (
    <main className="min-w-0 grow overflow-y-auto px-4 py-3">
      <div className="mb-3 flex flex-wrap items-center gap-5">
        <h1 className="text-[21px]">Export</h1>
        <Choice label="Sample format" value={format} options={formats} onChange={setFormat} />
        <div className="flex w-[300px] items-center gap-3">
          <div className="w-[130px]">
            <NumberField
              compact
              label="bars"
              value={length}
              unit=""
              min={1}
              max={64}
              digits={0}
              step={1}
              log
              onChange={(v) => setBars(Math.round(v))}
            />
          </div>
          <button type="button" className="press" disabled={bars === 0} onClick={() => setBars(0)}>
            One cycle
          </button>
        </div>
      </div>
      {empty && (
        <p className="mb-3 text-[14px]">
          The groove is empty, so the loop would be silence. Draw a groove or take one from the reference
          first.
        </p>
      )}
      <ul className="flex max-w-[860px] flex-col gap-2">
        {items.map((i) => (
          <li key={i.what} className="rowbox flex items-center gap-4 px-4 py-3">
            <div className="grow">
              <h2 className="text-[16px]">{i.title}</h2>
              <p className="text-[13px] text-muted">{i.text}</p>
            </div>
            <span className="num w-16 text-right text-[12px] text-muted">
              {i.wants ? formats.find((f) => f[0] === format)?.[1] : i.what === "midi" ? ".mid" : ".jubrak"}
            </span>
            <a className="press press-strong" href={api.exportURL(state.id, i.what, format, bars)} download>
              <Download size={15} /> Download
            </a>
          </li>
        ))}
      </ul>
    </main>
  );
}
