// Arrange: sections of any length above, a row a voice below them, painted on bars; what
// lies on them as objects, what moves as curves under its row.
import { useEffect, useMemo, useRef } from "react";
import type { State } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { monitor, useMonitor } from "../../live/monitor";
import { useWhatPlays } from "../../live/useWhatPlays";
import { Choice } from "../../parts/Choice";
import { count, minutes } from "../../parts/format";
import { Playhead } from "../../parts/Playhead";
import { useWidth } from "../../parts/useWidth";
import { useProject } from "../../state/project";
import { usePiece, usePieceHits } from "../../state/queries";
import { axisOf } from "../../time/axis";
import { barAt, type Facts, type Span, spanAt } from "../../time/piece";
import { useFollow, useTimeView, useTimeWheel } from "../../time/useTimeView";
import { AddBacking, Backings, useDropBacking } from "./Backings";
import { DrawnLane } from "./DrawnLane";
import { endOf, laid, lanesOf, nextName } from "./layout";
import { ReferenceMap } from "./Map";
import { Overlays } from "./Overlays";
import { playFrom } from "./playFrom";
import { Room } from "./Room";
import { ArrangeRow } from "./Row";
import { Ruler } from "./Ruler";
import { Sections } from "./Sections";
import { Side } from "./Side";
import { chooseIn, useArrange } from "./store";

const left = 118; // pixels of the rows' labels

export function Arrange({ state }: { state: State }) {
  const doc = state.document;
  const edit = useProject((s) => s.edit);
  const { data: facts, error } = usePiece();
  const chosen = useArrange();
  const [box, width] = useWidth<HTMLDivElement>();
  const frame = useRef<HTMLDivElement | null>(null);
  const end = endOf(facts);
  const limits = useMemo(() => ({ from: 0, to: end, least: 1920 }), [end]);
  const time = useTimeView(`arrange ${state.id}`, limits, limits);
  const { from, to } = time.view;
  const axis = useMemo(() => axisOf({ from, to }, Math.max(width - left, 60), 6), [from, to, width]);
  useTimeWheel(frame, axis, time, left);
  useFollow(time, (tick) => tick, true);
  const list = useMemo(() => laid(doc, facts), [doc, facts]);
  const lanes = lanesOf(doc, facts, chosen.lanes);
  const whole = usePieceHits(0, end, facts !== undefined);
  // What is merged in the whole is asked for again, bar by bar, once there is room for it.
  const size = 2 ** Math.ceil(Math.log2(Math.max(to - from, 3840)));
  const at = Math.floor(from / size) * size;
  const near = usePieceHits(at, at + 2 * size, whole.data?.merged === true && size * 4 < end);
  const hits = whole.data?.merged && near.data && size * 4 < end ? near.data : whole.data;
  const drop = useDropBacking();
  useEffect(() => chooseIn(state.id), [state.id]);
  useWhatPlays(true);
  useArrangeKeys(time.reveal);
  useEffect(() => {
    if (!doc.arrangement.sections.some((s) => s.id === chosen.section))
      chosen.set({ section: doc.arrangement.sections[0]?.id ?? "" });
  }, [doc, chosen]);
  const rows = doc.kit.voices;
  const lanesFor = (row: string) =>
    lanes
      .filter((l) => l.row === row)
      .map((l) => <DrawnLane key={l.at} doc={doc} lane={l} list={list} axis={axis} left={left} />);
  return (
    <>
      <main className="flex min-w-0 grow flex-col px-4 py-3" {...drop}>
        <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1">
          <h1 className="text-2xl">Arrange</h1>
          <span className="text-sm text-muted" data-testid="piece-length">
            {facts ? `${count(facts.bars.length - 1, "bar")}, ${minutes(facts.seconds)}` : "…"}
          </span>
          <span className="grow" />
          <Choice
            label="Paint and place by"
            value={chosen.snap}
            options={[
              ["bar", "Bars", "Paint and place by bars"],
              ["beat", "Beats", "Paint and place by beats"],
              ["step", "1/16", "Paint and place by sixteenths"],
            ]}
            onChange={(snap) => chosen.set({ snap })}
          />
          <button
            type="button"
            className="press h-[30px] px-2.5"
            title="A section behind the chosen one"
            onClick={() => edit([{ op: "section.add", name: nextName(doc), bars: 8, after: chosen.section }])}
          >
            Add a section
          </button>
          <AddBacking />
        </div>
        {error && <p className="mb-2 text-sm text-error">{error.message}</p>}
        <div
          ref={(el) => {
            frame.current = el;
            return box(el);
          }}
          className="relative min-h-0 grow overflow-x-hidden overflow-y-auto"
          id="rows"
        >
          {facts && (
            <>
              <ReferenceMap axis={axis} left={left} />
              <Sections doc={doc} facts={facts} list={list} axis={axis} left={left} />
              <Ruler doc={doc} facts={facts} axis={axis} left={left} time={time} />
              <div className="relative pb-14">
                {lanesFor("")}
                {rows.map((v) => (
                  <ArrangeRow
                    key={v.id}
                    doc={doc}
                    voice={v}
                    facts={facts}
                    list={list}
                    axis={axis}
                    left={left}
                    hits={hits?.rows.find((r) => r.voice === v.id)?.hits ?? noHits}
                  >
                    {lanesFor(v.id)}
                  </ArrangeRow>
                ))}
                {doc.mix.buses.map((b) => (
                  <BusLanes key={b.id} name={b.name}>
                    {lanesFor(`bus:${b.id}`)}
                  </BusLanes>
                ))}
                <BusLanes name="Output">{lanesFor("out")}</BusLanes>
                <Backings doc={doc} facts={facts} axis={axis} left={left} />
                <Room facts={facts} axis={axis} left={left} />
                <Overlays facts={facts} list={list} axis={axis} left={left} />
                <div className="pointer-events-none absolute inset-y-0" style={{ left, right: 0 }}>
                  <Playhead piece toX={(tick) => (tick >= from && tick <= to ? axis.x(tick) : null)} />
                </div>
              </div>
            </>
          )}
        </div>
      </main>
      <Side doc={doc} facts={facts} list={list} />
    </>
  );
}

const noHits: number[] = [];

/** Lanes of a row of the mix that is no voice; nothing where it has none. */
function BusLanes({ name, children }: { name: string; children: React.ReactNode[] }) {
  if (children.length === 0) return null;
  return (
    <div className="mb-1 rounded-lg bg-base-200">
      <div className="px-3 pt-1 text-sm font-semibold">{name}</div>
      {children}
    </div>
  );
}

/** Reveal brings the cursor into sight. */
function useArrangeKeys(reveal: (tick: number) => void) {
  const now = () => {
    const c = useArrange.getState();
    const { state, edit } = useProject.getState();
    const sections = state?.document.arrangement.sections ?? [];
    const i = sections.findIndex((s) => s.id === c.section);
    return { c, edit, sections, i, section: sections[i] };
  };
  const facts = useRef<Facts | undefined>(undefined);
  facts.current = usePiece().data;
  const move = (by: number) => {
    const { edit, section, i, sections } = now();
    const to = i + by;
    if (section && to >= 0 && to < sections.length) edit([{ op: "section.move", section: section.id, to }]);
  };
  const go = (cursor: number) => {
    now().c.set({ cursor, range: null });
    reveal(cursor);
  };
  const step = (by: number) => {
    const { c } = now();
    const f = facts.current;
    if (!f) return;
    const bar = barAt(f, c.cursor);
    const on = f.bars[bar]?.tick === Math.round(c.cursor) || by > 0 ? bar + by : bar;
    go(f.bars[Math.min(Math.max(on, 0), f.bars.length - 2)]?.tick ?? 0);
  };
  useKeys("arrange", {
    cursor: (e) => step(e.key === "ArrowLeft" ? -1 : 1),
    ends: (e) => {
      const bars = facts.current?.bars ?? [];
      const bar = bars[e.key === "Home" ? 0 : bars.length - 2];
      if (bar) go(bar.tick);
    },
    sections: (e) => {
      const { c, sections, i } = now();
      const next = sections[Math.min(Math.max(i + (e.key === "ArrowLeft" ? -1 : 1), 0), sections.length - 1)];
      const span = facts.current?.spans.find((s) => s.section === next?.id);
      if (!next) return;
      const cursor = span?.from ?? c.cursor;
      c.set({ section: next.id, over: null, panel: "section", cursor });
      reveal(cursor);
    },
    from: () => playFrom(now().c.cursor),
    loop: () => {
      const { c } = now();
      const span = facts.current?.spans.find((s) => s.section === c.section);
      const part = c.range ?? (span ? { from: span.from, to: span.to } : null);
      const was = useMonitor.getState().loop;
      monitor.setPiece(true);
      monitor.setLoop(part && (was?.from !== part.from || was.to !== part.to) ? part : null);
    },
    earlier: () => move(-1),
    later: () => move(1),
    split: () => {
      const { c, edit, section } = now();
      const f = facts.current;
      const span = f?.spans.find((s) => s.section === section?.id);
      if (!f || !span || !section) return;
      edit([{ op: "section.split", section: section.id, bar: barAt(f, c.cursor) - span.first_bar }]);
    },
    repeat: () => {
      const { edit, section } = now();
      if (section) edit([{ op: "section.repeat", section: section.id }]);
    },
    remove: () => {
      const { c, edit, section } = now();
      if (c.over) {
        edit([{ op: "over.remove", section: c.over.section, over: c.over.id }]);
        c.set({ over: null, panel: "section" });
      } else if (section) edit([{ op: "section.remove", section: section.id }]);
    },
    marker: () => {
      const { c, edit } = now();
      const n = (useProject.getState().state?.document.arrangement.markers.length ?? 0) + 1;
      edit([{ op: "marker.add", name: `Marker ${n}`, at: Math.round(c.cursor) }]);
    },
    jump: () => {
      const f = facts.current;
      const r = monitor.report;
      if (!f || !r.playing || !r.piece) return;
      const next = f.spans[f.spans.indexOf(spanAt(f, r.position) as Span) + 1];
      if (next) monitor.leap(next.from);
    },
  });
}
