import { ChevronLeft, ChevronRight } from "lucide-react";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import type { Analysis, HeardHit, Schemas, State } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { Choice } from "../../parts/Choice";
import { hue } from "../../parts/family";
import type { MenuItem } from "../../parts/Menu";
import { Overview } from "../../parts/Overview";
import { Playhead } from "../../parts/Playhead";
import { fittingScale, widest } from "../../parts/sticks";
import { useWidth } from "../../parts/useWidth";
import { useProject } from "../../state/project";
import { useDrums, useInfo } from "../../state/queries";
import { go } from "../../state/route";
import { barTicks } from "../../state/ticks";
import { useFollow, useTimeView, useTimeWheel } from "../../time/useTimeView";
import { Drums } from "./Drums";
import { Facts } from "./Facts";
import { HitRow, labelWidth, steps } from "./HitRow";
import { Plots } from "./Plots";
import { Sound } from "./Sound";
import { StudyBar } from "./StudyBar";
import { type Correction, Tools } from "./Tools";
import { barAndBeat, barSeconds, barsOf, earliestBar, limitsOf, timelineOf, viewOfBars } from "./timeline";
import { Wave } from "./Wave";

export function Heard({
  state,
  analysis,
  reference,
  head,
}: {
  state: State;
  analysis: Analysis;
  reference: Schemas["Reference"];
  head: (more: MenuItem[]) => ReactNode;
}) {
  const edit = useProject((p) => p.edit);
  const info = useInfo().data;
  const [ref, fullWidth] = useWidth<HTMLDivElement>();
  const [selected, setSelected] = useState("");
  // A stretch chosen on the overview to listen to.
  const [stretch, setStretch] = useState<{ from: number; to: number } | null>(null);
  const [drums, setDrums] = useState(false);
  useDrums(reference.id); // worked out as soon as a reference is looked at
  const width = Math.max(fullWidth - labelWidth, 10);
  const earliest = earliestBar(analysis);
  const bars = Math.max(analysis.bars, earliest + 1);
  const limits = useMemo(() => limitsOf(analysis), [analysis]);
  const view = useTimeView(`reference ${state.id} ${reference.id}`, limits, viewOfBars(analysis, 0, 2));
  const { from: viewFrom, to: viewTo } = view.view;
  const time = useMemo(() => timelineOf({ from: viewFrom, to: viewTo }, width), [viewFrom, viewTo, width]);
  const { first: firstBar, bars: span } = barsOf(analysis, view.view);
  // So wide that the names of bars do not touch.
  const everyBar = [1, 2, 4, 8, 16, 32].find((n) => (n * width) / span > 46) ?? 64;
  const rows = useRef<HTMLDivElement>(null);
  useTimeWheel(rows, time, view, labelWidth);
  /** Where a place of the groove lies in the recording. */
  const placeOf = (tick: number) => {
    const bar = tick / barTicks(state.document.groove.meter);
    const from = barSeconds(analysis, Math.floor(bar));
    return from + (bar % 1) * (barSeconds(analysis, Math.floor(bar) + 1) - from);
  };
  useFollow(view, placeOf);
  const families = useMemo(() => {
    const present = new Set(analysis.hits.map((h) => h.family));
    return (info?.families ?? []).filter((f) => present.has(f));
  }, [analysis, info]);
  const stepMs = analysis.tempo_bpm ? 15000 / analysis.tempo_bpm : 125;
  const scale = useMemo(() => fittingScale(widest(analysis.hits), stepMs), [analysis, stepMs]);
  const correct = (c: Correction) =>
    edit([
      {
        op: "reference.correct",
        reference: reference.id,
        correction: c,
      },
    ]);
  const hit = analysis.hits.find((h) => h.id === selected);
  useEffect(() => {
    if (selected && !hit) setSelected("");
  }, [selected, hit]);
  const select = (id: string) => {
    setSelected(id);
    const chosen = analysis.hits.find((h) => h.id === id);
    if (chosen) view.reveal(chosen.time_s);
  };
  const show = (bar: number, n = span) =>
    view.show(
      viewOfBars(analysis, Math.max(Math.min(bar, bars - n), earliest), Math.min(n, bars - earliest)),
    );
  // What is on show: whole bars where it is bars, else the stretch itself.
  const exact = viewOfBars(analysis, firstBar, span);
  const tolerance = (viewTo - viewFrom) * 0.01;
  const inBars = Math.abs(exact.from - viewFrom) < tolerance && Math.abs(exact.to - viewTo) < tolerance;
  const barStart = Math.max(inBars ? barSeconds(analysis, firstBar) : viewFrom, 0);
  const barEnd = Math.min(inBars ? barSeconds(analysis, firstBar + span) : viewTo, analysis.duration_s);
  // Bar lines move a little when other hits count.
  const isLeftOut = analysis.left_out.some((r) => r.from_s <= barStart + 0.08 && r.to_s >= barEnd - 0.08);
  const steadiest = () => {
    const from = analysis.steadiest?.from_s ?? 0;
    let bar = 0;
    while (bar < bars - 8 && barSeconds(analysis, bar) < from - 0.05) bar++;
    show(bar, 8);
  };
  const leaveOut = () =>
    correct(
      isLeftOut
        ? { kind: "take_in", time_s: (barStart + barEnd) / 2 }
        : { kind: "leave_out", time_s: barStart, until_s: barEnd },
    );
  const earlier = () => show(firstBar - span);
  const later = () => show(firstBar + span);
  useKeys("time", {
    earlier,
    later,
    closer: () => view.zoom(2),
    wider: () => view.zoom(0.5),
    whole: () => view.show(limits),
  });
  const heardFrom = stretch?.from ?? barStart;
  const heardTo = stretch?.to ?? barEnd;
  return (
    <>
      <main className="flex min-w-0 grow flex-col overflow-y-auto px-4 py-3">
        <div className="mb-2 flex items-center gap-2 max-[1200px]:gap-1">
          {head([
            ...(analysis.steadiest
              ? [
                  {
                    text: "Steadiest 8 bars",
                    hint: "Shows the eight that are most alike and fullest of drums",
                    onClick: steadiest,
                  },
                ]
              : []),
            {
              text: isLeftOut ? "Count the bars on show" : "Leave out the bars on show",
              hint: "Whether they count for feel and pattern",
              narrow: true,
              disabled: !analysis.grid,
              onClick: leaveOut,
            },
          ])}
          <Choice
            label="What of it"
            value={drums ? "drums" : "hits"}
            options={[
              ["hits", "Hits", "What was struck when, and what follows from it"],
              ["drums", "Drums", "Each drum by itself, put together from all its strokes"],
            ]}
            onChange={(v) => setDrums(v === "drums")}
          />
          <div className="ml-auto flex items-center gap-2 max-[1200px]:gap-1">
            <span className="text-sm text-muted max-[1200px]:hidden">Bars</span>
            <Choice
              label="Bars on show"
              value={inBars ? span : 0}
              options={[
                [1, "1"],
                [2, "2"],
                [4, "4"],
                [8, "8"],
              ]}
              onChange={(n) => show(firstBar, n)}
            />
            <button
              type="button"
              className="press px-2"
              aria-label="Earlier bars"
              title="Earlier bars (,)"
              disabled={viewFrom <= barSeconds(analysis, earliest)}
              onClick={earlier}
            >
              <ChevronLeft size={15} />
            </button>
            <button
              type="button"
              className="press px-2"
              aria-label="Later bars"
              title="Later bars (.)"
              disabled={viewTo >= barSeconds(analysis, bars)}
              onClick={later}
            >
              <ChevronRight size={15} />
            </button>
          </div>
        </div>
        {drums ? (
          <Drums state={state} reference={reference} from={heardFrom} to={heardTo} />
        ) : (
          <>
            <Tools analysis={analysis} correct={correct}>
              <button
                type="button"
                className="press px-2.5 max-[1200px]:hidden"
                disabled={!analysis.grid}
                aria-pressed={isLeftOut}
                title="Whether the bars on show count for feel and pattern"
                onClick={leaveOut}
              >
                {isLeftOut ? "Include bars" : "Exclude bars"}
              </button>
            </Tools>
            <div ref={ref}>
              {fullWidth > 0 && (
                <>
                  <StudyBar
                    reference={reference.id}
                    audio={reference.kind === "audio"}
                    from={heardFrom}
                    to={heardTo}
                    chosen={stretch !== null}
                    families={families}
                    labelWidth={labelWidth}
                  >
                    <Overview
                      label="The whole recording; click to show bars, drag to choose a stretch to listen to"
                      time={view}
                      width={width}
                      height={38}
                      onClick={(t) => {
                        setStretch(null);
                        let bar = earliest;
                        while (bar < bars - 1 && barSeconds(analysis, bar + 1) <= t) bar++;
                        show(bar);
                      }}
                      onChoose={({ from, to }) => {
                        const start = Math.max(from, 0);
                        setStretch({ from: start, to: Math.min(to, start + 60, analysis.duration_s) });
                      }}
                    >
                      {(x) => (
                        <>
                          <g transform={`translate(${x(0)} 0)`}>
                            <Wave
                              project={state.id}
                              reference={reference.id}
                              from={0}
                              to={analysis.duration_s}
                              width={x(analysis.duration_s) - x(0)}
                              height={38}
                              colour="var(--line-strong)"
                            />
                          </g>
                          {reference.kind === "midi" && <SmallHits hits={analysis.hits} x={x} />}
                          {stretch && (
                            <rect
                              data-testid="stretch"
                              x={x(stretch.from)}
                              y={4}
                              width={x(stretch.to) - x(stretch.from)}
                              height={30}
                              fill="var(--ref)"
                              fillOpacity={0.28}
                              stroke="var(--ref)"
                            />
                          )}
                        </>
                      )}
                    </Overview>
                  </StudyBar>
                  <div ref={rows} id="rows" className="relative">
                    <svg width={fullWidth} height={20} aria-hidden="true">
                      <defs>
                        <pattern id="left-out" width={8} height={8} patternUnits="userSpaceOnUse">
                          <path d="M0 8 L8 0" stroke="var(--line-strong)" strokeWidth={1.2} opacity={0.6} />
                        </pattern>
                      </defs>
                      {steps(analysis, time)
                        .filter((l) => l.rank < (span > 4 ? 1 : 2))
                        .filter((l) => l.rank > 0 || (barAndBeat(analysis, l.beat).bar - 1) % everyBar === 0)
                        .map((l) => {
                          const { bar, beat } = barAndBeat(analysis, l.beat);
                          return (
                            <text
                              key={l.at}
                              x={labelWidth + time.x(l.at)}
                              y={14}
                              style={
                                l.rank === 0 ? { fill: "var(--color-base-content)", fontWeight: 600 } : {}
                              }
                            >
                              {l.rank === 0
                                ? time.x(l.at) < width - 40
                                  ? `bar ${bar}`
                                  : ""
                                : span <= 2
                                  ? `${bar}.${beat}`
                                  : ""}
                            </text>
                          );
                        })}
                    </svg>
                    <div className="flex flex-col gap-1">
                      {reference.kind === "audio" && (
                        <Sound
                          project={state.id}
                          reference={reference.id}
                          analysis={analysis}
                          time={time}
                          width={width}
                          onBeat={(beats, time_s) => correct({ kind: "beat", beats, time_s })}
                          onBarOne={(time_s) => correct({ kind: "bar_one_at", time_s })}
                        />
                      )}
                      {families.map((f) => (
                        <HitRow
                          key={f}
                          analysis={analysis}
                          family={f}
                          hits={analysis.hits.filter((h) => h.family === f)}
                          time={time}
                          width={width}
                          scale={scale}
                          selected={selected}
                          onSelect={select}
                          onAdd={(time_s, velocity) => correct({ kind: "add", time_s, velocity, family: f })}
                          onDrop={(id) => correct({ kind: "delete", hit: id })}
                          onMove={(id, time_s) => correct({ kind: "move", hit: id, time_s })}
                          onWeigh={(id, velocity) => correct({ kind: "weigh", hit: id, velocity })}
                        />
                      ))}
                    </div>
                    <Playhead
                      colour="var(--ref)"
                      study={(part) => {
                        const at = heardFrom + part * (heardTo - heardFrom);
                        return at >= time.from && at <= time.to ? labelWidth + time.x(at) : null;
                      }}
                      toX={(tick) => {
                        const at = placeOf(tick);
                        return at >= time.from && at <= time.to ? labelWidth + time.x(at) : null;
                      }}
                    />
                  </div>
                </>
              )}
            </div>
            {fullWidth > 0 && (
              <Plots
                analysis={analysis}
                recording={reference.kind === "audio" ? reference.id : null}
                correct={correct}
                width={fullWidth}
                height={150}
              />
            )}
            <p className="mt-2 text-xs text-muted">
              Sticks lean left when early, right when late, shown ×{scale}; faint: not heard surely; with a
              small head: a grace note. Drag a hit along or up and down; click it to change its family or
              remove it; double click a row to add one.
            </p>
          </>
        )}
      </main>
      <Facts
        analysis={analysis}
        info={info}
        hit={hit}
        onRefile={(family, row) =>
          hit &&
          correct(
            row ? { kind: "refile_row", text: hit.family, family } : { kind: "refile", hit: hit.id, family },
          )
        }
        onDrop={() => hit && correct({ kind: "delete", hit: hit.id })}
        onMove={(time_s) => hit && correct({ kind: "move", hit: hit.id, time_s })}
        onWeigh={(velocity) => hit && correct({ kind: "weigh", hit: hit.id, velocity })}
        onTake={(op) => {
          edit([{ op, reference: reference.id }]);
          go(state.id, "groove");
        }}
      />
    </>
  );
}

/** All hits of a performance in small. */
function SmallHits({ hits, x }: { hits: HeardHit[]; x: (time: number) => number }) {
  return [...new Set(hits.map((h) => h.family))].map((family) => (
    <path
      key={family}
      d={hits
        .filter((h) => h.family === family)
        .map((h) => `M${x(h.time_s).toFixed(1)} 34v${(-h.velocity / 4.5).toFixed(1)}`)
        .join("")}
      stroke={hue(family)}
      strokeWidth={1.2}
    />
  ));
}
