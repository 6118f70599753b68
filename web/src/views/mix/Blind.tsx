// Two states in hidden order: one says which is which, is counted, and told the odds.
import { useEffect, useState } from "react";
import { api } from "../../api/client";
import { monitor, useMonitor } from "../../live/monitor";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";

interface Game {
  gain: number;
  /** Whether the first of the two is off. */
  firstIsOff: boolean;
  heard: 1 | 2;
  right: number;
  of: number;
}

export function Blind(p: { row: string; step: string; disabled: boolean }) {
  const tell = useProject((s) => s.tell);
  const id = useProject((s) => s.state?.id) ?? "";
  const playing = useMonitor((m) => m.playing);
  const [game, setGame] = useState<Game | null>(null);
  const [odds, setOdds] = useState<number | null>(null);
  const hear = (g: Game, which: 1 | 2) => {
    const off = (which === 1) === g.firstIsOff;
    monitor.setJudge(off ? { row: p.row, step: p.step, gain_db: g.gain } : null);
    setGame({ ...g, heard: which });
  };
  useEffect(() => () => monitor.setJudge(null), []);
  const begin = async () => {
    try {
      const { gain_db } = await api.judge(id, p.row, p.step);
      if (!playing) void monitor.play();
      setOdds(null);
      hear({ gain: gain_db, firstIsOff: Math.random() < 0.5, heard: 1, right: 0, of: 0 }, 1);
    } catch (e) {
      tell((e as Error).message);
    }
  };
  const guess = async (first: boolean) => {
    if (!game) return;
    const right = game.right + (first === game.firstIsOff ? 1 : 0);
    const of = game.of + 1;
    hear({ ...game, right, of, firstIsOff: Math.random() < 0.5 }, 1);
    setOdds((await api.odds(right, of)).chance);
  };
  if (!game)
    return (
      <div className="border-t border-line pt-1">
        <button
          type="button"
          className="press h-7 px-2 text-[12px]"
          disabled={p.disabled}
          title="Two states in hidden order, at the same loudness"
          onClick={() => void begin()}
        >
          Judge blind
        </button>
      </div>
    );
  return (
    <fieldset className="border-t border-line pt-1" aria-label="Judge blind">
      <h3 className="text-[13px]">Which one is off?</h3>
      <div className="flex gap-1 py-1">
        {([1, 2] as const).map((n) => (
          <button
            key={n}
            type="button"
            className={`press h-8 grow ${game.heard === n ? "bg-row!" : ""}`}
            aria-pressed={game.heard === n}
            onClick={() => hear(game, n)}
          >
            Hear {n}
          </button>
        ))}
      </div>
      <div className="flex gap-1">
        <button type="button" className="press h-7 grow px-2 text-[12px]" onClick={() => void guess(true)}>
          1 is off
        </button>
        <button type="button" className="press h-7 grow px-2 text-[12px]" onClick={() => void guess(false)}>
          2 is off
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-[12px]"
          onClick={() => {
            monitor.setJudge(null);
            setGame(null);
          }}
        >
          End
        </button>
      </div>
      <p className="pt-1 text-[12px]" role="status">
        {game.of === 0 ? (
          <span className="text-muted">Eight rounds tell.</span>
        ) : (
          <>
            <span className="num">{game.right}</span> of <span className="num">{game.of}</span> right
            {odds !== null && (
              <span className="text-muted">
                ; one who guesses gets that in{" "}
                <span className="num">{num(odds * 100, odds < 0.1 ? 1 : 0)}</span> % of all tries
              </span>
            )}
          </>
        )}
      </p>
    </fieldset>
  );
}
