import { useRef, useState } from "react";
import type { Schemas, State } from "../../api/client";
import { useHearing } from "../../live/useHearing";
import { Choice } from "../../parts/Choice";
import { useDrums } from "../../state/queries";
import { DrumRow } from "./DrumRow";

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
          <DrumRow
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
