// What is heard behind the drums: each a row with its wave, moved by a drag; brought by a
// picker or by dropping a file here.
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { ApiError, api, type Document, type Schemas } from "../../api/client";
import { Menu } from "../../parts/Menu";
import { useDrag } from "../../parts/useDrag";
import { watch } from "../../state/jobs";
import { useProject } from "../../state/project";
import { useBackings } from "../../state/queries";
import type { Axis } from "../../time/axis";
import { type Facts, placeText } from "../../time/piece";
import { nearest } from "./layout";
import { useArrange } from "./store";

const accept = ".wav,.flac,.mp3,.aif,.aiff,audio/*";
const height = 44;

async function bringBacking(file: File) {
  const { state, notify } = useProject.getState();
  if (!state) return;
  const { cursor } = useArrange.getState();
  try {
    const job = await api.addBacking(state.id, Math.round(cursor), file);
    await useProject.getState().refresh();
    const done = await watch(job);
    if (useProject.getState().state?.id !== state.id) return;
    await useProject.getState().refresh();
    if (done.status === "failed") notify(done.error);
    else if (done.notes.length > 0) notify(done.notes.join(" "), "info");
    useArrange.getState().set({ panel: "backing", backing: done.result, over: null });
  } catch (e) {
    notify(
      e instanceof ApiError
        ? `${file.name}: ${e.message} Nothing was changed.`
        : "The file could not be sent.",
    );
  }
}

/** A sound file dropped here becomes a backing at the cursor. */
export function useDropBacking() {
  const files = (e: React.DragEvent) => e.dataTransfer.types.includes("Files");
  return {
    onDragOver: (e: React.DragEvent) => {
      if (!files(e)) return;
      e.preventDefault();
      e.stopPropagation();
    },
    onDrop: (e: React.DragEvent) => {
      const file = e.dataTransfer.files[0];
      if (!file) return;
      e.preventDefault();
      e.stopPropagation();
      void bringBacking(file);
    },
  };
}

export function AddBacking() {
  const edit = useProject((s) => s.edit);
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        className="hidden"
        aria-label="A recording behind the drums"
        onChange={(e) => {
          const file = e.target.files?.[0];
          if (file) void bringBacking(file);
          e.target.value = "";
        }}
      />
      <Menu
        label="Backing"
        right
        items={[
          {
            text: "Bring a recording…",
            hint: "A loop, a stem or a song of any length, at the cursor; or drop it here",
            onClick: () => input.current?.click(),
          },
          {
            text: "A stand-in for the singer",
            hint: "A synthesized voice, bass and chords, to judge room with nobody there",
            onClick: () => edit([{ op: "backing.stand_in" }]),
          },
        ]}
      />
    </>
  );
}

export function Backings(p: { doc: Document; facts: Facts; axis: Axis; left: number }) {
  const played = useBackings().data?.backings ?? [];
  return p.doc.arrangement.backings.map((b) => (
    <BackingRow key={b.id} {...p} of={b} played={played.find((f) => f.id === b.id)} />
  ));
}

function BackingRow(p: {
  facts: Facts;
  axis: Axis;
  left: number;
  of: Schemas["Backing"];
  played: Schemas["BackingFacts"] | undefined;
}) {
  const { of, played, axis, facts } = p;
  const chosen = useArrange();
  const edit = useProject((s) => s.edit);
  const id = useProject((s) => s.state?.id ?? "");
  const [shift, setShift] = useState(0);
  const wave = useQuery({
    queryKey: ["backing wave", id, of.id, played?.seconds, of.drumless, of.from_s, of.pitch_st],
    queryFn: ({ signal }) => api.backingWave(id, of.id, 900, signal),
    enabled: played?.ready === true,
    staleTime: Number.POSITIVE_INFINITY,
  }).data;
  const choose = () => chosen.set({ panel: "backing", backing: of.id, over: null });
  const drag = useDrag<{ x: number; moved: boolean }>({
    start: (e) => {
      choose();
      return { x: e.clientX, moved: false };
    },
    move: (d, e) => {
      if (Math.abs(e.clientX - d.x) > 4) d.moved = true;
      if (d.moved) setShift(e.clientX - d.x);
    },
    drop: (d, e) => {
      setShift(0);
      if (!d.moved) return;
      const at = nearest(facts, of.at + (e.clientX - d.x) / axis.per, chosen.snap);
      if (at !== of.at) edit([{ op: "backing.set", backing: of.id, at: Math.max(at, 0) }]);
    },
    cancel: () => setShift(0),
  });
  const from = axis.x(played?.from ?? of.at);
  const to = axis.x(played?.to ?? of.at);
  const rounds = Math.max(of.rounds, 1);
  const is = chosen.panel === "backing" && chosen.backing === of.id;
  return (
    <div className={`mb-1 flex rounded-lg border bg-base-100 ${is ? "border-base-content" : "border-line"}`}>
      <button
        type="button"
        className="shrink-0 cursor-pointer overflow-hidden py-1 pl-2.5 text-left"
        style={{ width: p.left - 1 }}
        onClick={choose}
      >
        <span className={`block truncate text-sm font-semibold ${of.mute ? "text-muted line-through" : ""}`}>
          {of.name}
        </span>
        <span className="block truncate text-2xs text-muted">
          {played?.problem ? "cannot be heard" : played?.ready ? about(of) : "preparing…"}
        </span>
      </button>
      <div
        className="relative grow cursor-grab touch-none overflow-hidden"
        style={{ height }}
        role="img"
        aria-label={`${of.name}, from ${placeText(facts, of.at)}. Drag to move it`}
        data-testid={`backing-${of.id}`}
        {...drag}
      >
        <svg width={axis.width} height={height} aria-hidden="true" className="block">
          {played?.ready && (
            <g transform={`translate(${shift} 0)`} opacity={of.mute ? 0.3 : 1}>
              <rect
                x={from}
                y={2}
                width={Math.max(to - from, 2)}
                height={height - 4}
                fill="var(--muted)"
                fillOpacity={0.1}
              />
              {wave &&
                Array.from({ length: Math.min(rounds, 64) }, (_, k) => {
                  const x0 = from + ((to - from) * k) / rounds;
                  const w = (to - from) / rounds;
                  if (x0 > axis.width || x0 + w < 0) return null;
                  const x = (i: number) => x0 + (w * i) / wave.points.length;
                  const y = (v: number) => height / 2 - v * (height / 2 - 4);
                  const seen = wave.points
                    .map(([a = 0, b = 0], i) => [x(i), [a, b]] as const)
                    .filter(([q]) => q > -2 && q < axis.width + 2);
                  return (
                    <path
                      // biome-ignore lint/suspicious/noArrayIndexKey: a round is its place
                      key={k}
                      d={seen
                        .map(
                          ([q, [a, b]]) =>
                            `M${q.toFixed(1)} ${y(b).toFixed(1)}V${Math.max(y(a), y(b) + 0.6).toFixed(1)}`,
                        )
                        .join("")}
                      stroke="var(--muted)"
                      strokeWidth={Math.max(w / wave.points.length, 0.7)}
                    />
                  );
                })}
            </g>
          )}
          {played?.problem && (
            <text x={8} y={height / 2 + 4} className="text-xs" fill="var(--color-error)">
              {played.problem}
            </text>
          )}
        </svg>
      </div>
    </div>
  );
}

/** What is done to a backing, in a few words. */
function about(b: Schemas["Backing"]): string {
  if (b.stand_in) return "voice and chords";
  const parts = [];
  if (b.fit === "stretched") parts.push("in tempo");
  if (b.fit === "tape") parts.push("as tape");
  if (b.pitch_st !== 0) parts.push(`${b.pitch_st > 0 ? "+" : "−"}${Math.abs(b.pitch_st)} st`);
  if (b.drumless) parts.push("no drums");
  if (b.duck_db > 0) parts.push("ducked");
  return parts.join(", ") || "as it is";
}
