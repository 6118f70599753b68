// Two states in hidden order: one says which is which, is counted, and reported the odds.
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

export function Blind(p: { row: string; effect: string; disabled: boolean }) {
  const notify = useProject((s) => s.notify);
  const id = useProject((s) => s.state?.id) ?? "";
  const playing = useMonitor((m) => m.playing);
  const [game, setGame] = useState<Game | null>(null);
  const [odds, setOdds] = useState<number | null>(null);
  const hear = (g: Game, which: 1 | 2) => {
    const off = (which === 1) === g.firstIsOff;
    monitor.setBypass(off ? { row: p.row, effect: p.effect, gain_db: g.gain } : null);
    setGame({ ...g, heard: which });
  };
  useEffect(() => () => monitor.setBypass(null), []);
  const begin = async () => {
    try {
      const { gain_db } = await api.bypassGain(id, p.row, p.effect);
      if (!playing) void monitor.play();
      setOdds(null);
      hear({ gain: gain_db, firstIsOff: Math.random() < 0.5, heard: 1, right: 0, of: 0 }, 1);
    } catch (e) {
      notify((e as Error).message);
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
          className="press h-7 px-2 text-xs"
          disabled={p.disabled}
          title="Two states in hidden order, at the same loudness"
          onClick={() => void begin()}
        >
          Blind A/B
        </button>
      </div>
    );
  return (
    <fieldset className="border-t border-line pt-1" aria-label="Blind A/B">
      <h3 className="text-sm">Which one is off?</h3>
      <div className="flex gap-1 py-1">
        {([1, 2] as const).map((n) => (
          <button
            key={n}
            type="button"
            className={`press h-8 grow ${game.heard === n ? "bg-row!" : ""}`}
            aria-pressed={game.heard === n}
            onClick={() => hear(game, n)}
          >
            Play {n}
          </button>
        ))}
      </div>
      <div className="flex gap-1">
        <button type="button" className="press h-7 grow px-2 text-xs" onClick={() => void guess(true)}>
          1 is bypassed
        </button>
        <button type="button" className="press h-7 grow px-2 text-xs" onClick={() => void guess(false)}>
          2 is bypassed
        </button>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          onClick={() => {
            monitor.setBypass(null);
            setGame(null);
          }}
        >
          End
        </button>
      </div>
      <p className="pt-1 text-xs" role="status">
        {game.of === 0 ? (
          <span className="text-muted">Play eight rounds for a fair result.</span>
        ) : (
          <>
            <span className="num">{game.right}</span> of <span className="num">{game.of}</span> right
            {odds !== null && (
              <span className="text-muted">
                ; guessing would do this well in{" "}
                <span className="num">{num(odds * 100, odds < 0.1 ? 1 : 0)}</span> % of the time
              </span>
            )}
          </>
        )}
      </p>
    </fieldset>
  );
}
