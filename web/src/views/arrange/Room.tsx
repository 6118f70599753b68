// Room for a voice, bar by bar: high where the drums leave it, red where it is crowded.
import { useState } from "react";
import { useRoom } from "../../state/queries";
import type { Axis } from "../../time/axis";
import type { Facts } from "../../time/piece";

const height = 40;

export function Room({ facts, axis, left }: { facts: Facts; axis: Axis; left: number }) {
  // A long piece takes a while: it is measured when that is asked for.
  const [asked, setAsked] = useState(false);
  const long = facts.seconds > 300;
  const room = useRoom(!long || asked);
  const bars = room.data?.bars ?? [];
  return (
    <div className="mb-1 rounded-lg border border-line bg-base-100">
      <div className="flex">
        <div className="shrink-0 overflow-hidden py-1 pl-2.5" style={{ width: left - 1 }}>
          <span className="block text-sm font-semibold">Room</span>
          <span className="block truncate text-2xs text-muted">
            {room.error ? (
              "could not be measured"
            ) : room.data ? (
              "for a voice"
            ) : long && !asked ? (
              <button
                type="button"
                className="cursor-pointer underline decoration-dotted"
                onClick={() => setAsked(true)}
              >
                measure it
              </button>
            ) : (
              "measuring…"
            )}
          </span>
        </div>
        <svg
          width={axis.width}
          height={height}
          className="block"
          role="img"
          aria-label={room.data?.says ?? "Room for a voice, by bar"}
          data-testid="room"
        >
          {bars.map((b, i) => {
            const from = facts.bars[i]?.tick;
            const to = facts.bars[i + 1]?.tick;
            if (from === undefined || to === undefined) return null;
            const x = axis.x(from);
            const w = axis.x(to) - x;
            if (x + w < 0 || x > axis.width) return null;
            const h = Math.max(b.room * (height - 6), 2);
            return (
              <rect
                key={from}
                x={x + 0.5}
                y={height - 3 - h}
                width={Math.max(w - 1, 0.7)}
                height={h}
                fill={b.crowded ? "var(--color-error)" : "var(--color-success)"}
                fillOpacity={b.crowded ? 0.65 : 0.45}
              >
                <title>
                  {`Bar ${i + 1}: ${Math.round(b.free_of_hits * 100)} % free of hits, ${b.level_dbfs > -100 ? `${b.level_dbfs.toFixed(1)} dBFS from 200 Hz to 4 kHz` : "silent"}${b.crowded ? ". Crowded where a voice stands" : ""}`}
                </title>
              </rect>
            );
          })}
        </svg>
      </div>
      {room.data && (
        <p className="truncate px-2.5 pb-1 text-xs text-muted" title={room.data.says}>
          {room.data.says}
        </p>
      )}
    </div>
  );
}
