// What stands around every view of a project: the stops of the work at the
// left, the project at the top, the transport at the bottom.
import { CircleHelp, Moon, Redo2, Sun, Undo2 } from "lucide-react";
import { memo, type ReactNode, useCallback, useState } from "react";
import type { Document } from "../api/client";
import { meters } from "../api/facts.gen";
import { useKeys } from "../keys/useKeys";
import { monitor, useMonitor } from "../live/monitor";
import type { Source } from "../live/wire";
import { useParam } from "../state/numbers";
import { useProject } from "../state/project";
import { useActiveReference, useAnalysis, useCompare } from "../state/queries";
import { go, type View, views } from "../state/route";
import { setFollow, useViews } from "../time/useTimeView";
import { count, num } from "./format";
import { Help } from "./Help";
import { History } from "./History";
import { ParamField } from "./ParamField";
import { TextBox } from "./TextBox";
import { Transport } from "./Transport";

export const titles: Record<View, string> = {
  reference: "Reference",
  sounds: "Sounds",
  groove: "Groove",
  mix: "Mix",
  arrange: "Arrange",
  compare: "Compare",
  export: "Export",
};

function useFacts(): Record<View, string> {
  const doc = useProject((p) => p.state?.document);
  const ref = useActiveReference();
  const analysis = useAnalysis().data;
  const compare = useCompare().data;
  const heard =
    ref && analysis
      ? analysis.tempo_bpm === null
        ? "no beat found"
        : `${num(analysis.tempo_bpm)} BPM, ${analysis.meter}`
      : ref
        ? "reading…"
        : "none yet";
  const effects = doc ? effectsIn(doc) : 0;
  return {
    reference: heard,
    sounds: count(doc?.kit.voices.length ?? 0, "voice"),
    groove: `swing ${num(doc?.groove.feel.swing_percent)} %`,
    mix:
      effects === 0
        ? "as it is"
        : `${count(effects, "effect")}, ${count(doc?.mix.buses.length ?? 0, "bus", "buses")}`,
    arrange: count(doc?.arrangement.sections.reduce((n, s) => n + s.bars, 0) ?? 0, "bar"),
    compare:
      ref && compare
        ? compare.measurable === 0
          ? "too little to measure"
          : `${compare.outside} of ${compare.measurable} outside`
        : ref
          ? "comparing…"
          : "needs a reference",
    export: "WAV, MIDI, project",
  };
}

/** How many effects stand in the chains of the mix. */
const effectsIn = (doc: Document) =>
  [...doc.kit.voices, ...doc.mix.buses, doc.mix.out].reduce((n, r) => n + r.chain.length, 0);

export function toggleTheme() {
  const next = document.documentElement.dataset.theme === "night" ? "day" : "night";
  document.documentElement.dataset.theme = next;
  localStorage.setItem("theme", next);
}

const nextSource: Record<Source, Source> = { mine: "reference", reference: "both", both: "mine" };

/** The keys that work on every view. */
function useFrameKeys(project: string, help: () => void) {
  const canSwitch = useActiveReference()?.kind === "audio";
  useKeys("everywhere", {
    play: () => monitor.toggle(),
    source: () => canSwitch && monitor.setSource(nextSource[useMonitor.getState().source]),
    views: (e) => go(project, views[Number(e.key) - 1]),
    undo: () => void useProject.getState().undo(),
    redo: () => void useProject.getState().redo(),
    click: () => monitor.setClick(useMonitor.getState().click > 0 ? 0 : 1),
    feel: () => monitor.setHear(useMonitor.getState().hear ? null : []),
    follow: () => setFollow(!useViews.getState().follow),
    theme: toggleTheme,
    help,
  });
}

export function Frame({ project, view, children }: { project: string; view: View; children: ReactNode }) {
  const [help, setHelp] = useState(false);
  const openHelp = useCallback(() => setHelp(true), []);
  useFrameKeys(project, openHelp);
  return (
    <div className="flex h-full flex-col">
      <Header onHelp={openHelp} />
      <div className="flex min-h-0 grow">
        <Stops project={project} view={view} />
        {children}
      </div>
      <Transport />
      {help && <Help onClose={() => setHelp(false)} />}
    </div>
  );
}

/** What the project as a whole has. Each part is drawn again only when it changes itself. */
const Header = memo(function Header({ onHelp }: { onHelp: () => void }) {
  const { edit, undo, redo } = useProject.getState();
  const key = useProject((p) => p.state?.document.key ?? "");
  const bpm = useProject((p) => p.state?.document.tempo[0]?.bpm ?? 100);
  const meter = useProject((p) => p.state?.document.groove.meter);
  const canUndo = useProject((p) => p.state?.can_undo ?? false);
  const canRedo = useProject((p) => p.state?.can_redo ?? false);
  const tempo = useParam("tempo", "bpm");
  return (
    <header className="flex h-12 shrink-0 items-center gap-4 border-b border-line bg-base-200 px-4">
      <button
        type="button"
        className="w-[136px] cursor-pointer text-left font-display text-2xl font-bold"
        title="All projects"
        onClick={() => go(null)}
      >
        jubrak<span className="text-primary">.</span>
      </button>
      <ProjectName />
      <Field label="Key">
        <TextBox
          label="Key"
          value={key}
          width={76}
          onCommit={(text) => edit([{ op: "project.key", key: text }])}
        />
      </Field>
      <div className="w-[148px]">
        {tempo && <ParamField compact param={tempo} at="tempo" label="Tempo" value={bpm} digits={2} />}
      </div>
      <Field label="Meter">
        {meter && (
          <select
            className="num cursor-pointer rounded border border-transparent bg-transparent text-sm hover:border-line"
            aria-label="Meter of the groove"
            value={`${meter.beats}/${meter.unit}`}
            onChange={(e) => {
              const [beats = 4, unit = 4] = e.target.value.split("/").map(Number);
              edit([{ op: "groove.meter", meter: { beats, unit } }]);
            }}
          >
            {[...new Set([...meters, `${meter.beats}/${meter.unit}`])].map((m) => (
              <option key={m}>{m}</option>
            ))}
          </select>
        )}
      </Field>
      <span className="grow" />
      <Saving />
      <button type="button" className="press" disabled={!canUndo} onClick={() => void undo()} title="Ctrl Z">
        <Undo2 size={15} /> Undo
      </button>
      <button
        type="button"
        className="press"
        disabled={!canRedo}
        onClick={() => void redo()}
        title="Ctrl Shift Z"
      >
        <Redo2 size={15} /> Redo
      </button>
      <History />
      <button
        type="button"
        className="press px-2"
        onClick={toggleTheme}
        aria-label="Light or dark theme"
        title="Light or dark theme (N)"
      >
        <Sun size={15} className="in-data-[theme=day]:hidden" />
        <Moon size={15} className="in-data-[theme=night]:hidden" />
      </button>
      <button
        type="button"
        className="press px-2"
        onClick={onHelp}
        aria-label="Keys"
        title="Keyboard shortcuts (?)"
      >
        <CircleHelp size={15} />
      </button>
    </header>
  );
});

function Saving() {
  const saving = useProject((p) => p.saving);
  return (
    <span className="whitespace-nowrap text-xs text-muted max-[1150px]:hidden" role="status">
      {saving ? "saving…" : "All changes saved"}
    </span>
  );
}

/** The views of a project, each with a fact of it. */
const Stops = memo(function Stops({ project, view }: { project: string; view: View }) {
  const facts = useFacts();
  return (
    <nav className="w-[164px] shrink-0 border-r border-line bg-base-200 pt-2" aria-label="Stops of the work">
      {views.map((v, i) => (
        <button
          key={v}
          type="button"
          title={`Key ${i + 1}`}
          aria-current={v === view ? "page" : undefined}
          onClick={() => go(project, v)}
          className={`block w-full cursor-pointer border-l-[3px] px-4 py-2.5 text-left ${
            v === view ? "border-primary bg-base-100" : "border-transparent hover:bg-base-300"
          }`}
        >
          <span className="block font-display text-lg font-semibold">{titles[v]}</span>
          <span className="block text-xs text-muted" data-fact={v}>
            {facts[v]}
          </span>
        </button>
      ))}
    </nav>
  );
});

function Field({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex items-baseline gap-1.5">
      <span className="text-sm">{label}</span>
      {children}
    </div>
  );
}

function ProjectName() {
  const name = useProject((p) => p.state?.document.name ?? "");
  const edit = useProject((p) => p.edit);
  return (
    <TextBox
      label="Project name"
      value={name}
      width={170}
      className="font-display text-lg! font-semibold"
      onCommit={(text) => text !== "" && edit([{ op: "project.rename", name: text }])}
    />
  );
}
