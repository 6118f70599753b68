// A blind test: A and B in hidden order, X is one of both. Same bars, same loudness; results
// and odds are kept.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Schemas } from "../../api/client";
import { useHearing } from "../../live/useHearing";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";

export function Blind({ onClose }: { onClose: () => void }) {
  const state = useProject((p) => p.state);
  const notify = useProject((p) => p.notify);
  const client = useQueryClient();
  const hearing = useHearing();
  const id = state?.id ?? "";
  const results =
    useQuery({ queryKey: ["blind", id], queryFn: () => api.blindResults(id) }).data?.results ?? [];
  const others = (state?.document.variations ?? []).filter(
    (v) => v.id !== state?.document.variation && !v.here,
  );
  const [against, setAgainst] = useState("");
  const [rounds, setRounds] = useState(8);
  const [bar, setBar] = useState(1);
  const [busy, setBusy] = useState(false);
  const [game, setGame] = useState<Schemas["BlindGame"] | null>(null);
  const [side, setSide] = useState("");
  const begin = async () => {
    setBusy(true);
    try {
      setGame(await api.blind(id, { variation: against, rounds, from_bar: bar - 1 }));
      setSide("");
    } catch (e) {
      notify((e as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const hear = (which: "a" | "b" | "x") => {
    if (!game) return;
    setSide(which);
    hearing.hear(which, { blind: { game: game.id, side: which } });
  };
  const say = async (x: Schemas["BlindSide"]) => {
    if (!game) return;
    hearing.stop();
    setSide("");
    try {
      const now = await api.answerBlind(game.id, x);
      setGame(x === "end" ? null : now);
      if (x === "end" || now.answered === now.rounds)
        await client.invalidateQueries({ queryKey: ["blind", id] });
    } catch (e) {
      notify((e as Error).message);
    }
  };
  const over = game && game.answered === game.rounds;
  return (
    <section aria-label="Blind test" className="rowbox mb-3 flex flex-col gap-2 p-3 text-sm">
      <div className="flex items-center gap-3">
        <h2 className="grow text-xl">Blind test</h2>
        <button
          type="button"
          className="press h-7 px-2 text-xs"
          onClick={() => {
            if (game && !over) void say("end");
            else hearing.stop();
            onClose();
          }}
        >
          Done
        </button>
      </div>
      {!game ? (
        <>
          <p className="text-muted">
            Two are called A and B in hidden order, X is one of them: say which. Both play the same bars, as
            loud as each other.
          </p>
          <div className="flex flex-wrap items-center gap-2">
            Mine against
            <select
              className="press h-8 px-1.5"
              aria-label="Against what"
              value={against}
              onChange={(e) => setAgainst(e.target.value)}
            >
              <option value="">the reference's drums</option>
              {others.map((v) => (
                <option key={v.id} value={v.id}>
                  groove {v.id.toUpperCase()} {v.name}
                </option>
              ))}
            </select>
            from bar
            <input
              type="number"
              className="num h-8 w-[58px] rounded border border-line bg-base-100 px-1.5"
              aria-label="First bar"
              min={1}
              max={state?.document.groove.bars ?? 1}
              value={bar}
              onChange={(e) => setBar(Math.max(1, Number(e.target.value) || 1))}
            />
            <select
              className="press h-8 px-1.5"
              aria-label="Rounds"
              value={rounds}
              onChange={(e) => setRounds(Number(e.target.value))}
            >
              {[4, 8, 12, 16, 24].map((n) => (
                <option key={n} value={n}>
                  {n} rounds
                </option>
              ))}
            </select>
            <button type="button" className="press press-strong" disabled={busy} onClick={() => void begin()}>
              {busy ? "Rendering…" : "Begin"}
            </button>
          </div>
        </>
      ) : (
        <>
          <p className="text-muted">
            {game.pair}, {game.bars === 1 ? "1 bar" : `${game.bars} bars`}.{" "}
            {over ? "It is over." : `Round ${game.answered + 1} of ${game.rounds}.`}
          </p>
          {!over && (
            <div className="flex flex-wrap items-center gap-2">
              {(["a", "b", "x"] as const).map((w) => (
                <button
                  key={w}
                  type="button"
                  className={`press h-9 w-[88px] ${side === w && hearing.heard === w ? "bg-row!" : ""}`}
                  aria-pressed={side === w && hearing.heard === w}
                  onClick={() => hear(w)}
                >
                  Hear {w.toUpperCase()}
                </button>
              ))}
              <span className="mx-2 h-6 border-l border-line" />
              <button type="button" className="press press-strong h-9" onClick={() => void say("a")}>
                X is A
              </button>
              <button type="button" className="press press-strong h-9" onClick={() => void say("b")}>
                X is B
              </button>
            </div>
          )}
          <p role="status">
            {game.answered > 0 && (
              <>
                {game.was ? "Right. " : "Wrong. "}
                <span className="num">{game.right}</span> of <span className="num">{game.answered}</span>{" "}
                right; guessing would do this well in <span className="num">{percent(game.odds)}</span> % of
                all tries.
              </>
            )}
          </p>
          {over && (
            <div>
              <button type="button" className="press h-7 px-2 text-xs" onClick={() => setGame(null)}>
                Another one
              </button>
            </div>
          )}
        </>
      )}
      {results.length > 0 && (
        <table className="w-full max-w-[620px] text-xs" aria-label="Blind tests before">
          <tbody>
            {results.slice(0, 5).map((r) => (
              <tr key={r.at}>
                <td className="num pr-3 text-muted">
                  {new Date(r.at).toLocaleString("en-GB", { dateStyle: "medium", timeStyle: "short" })}
                </td>
                <td className="pr-3">{r.pair}</td>
                <td className="num pr-3">
                  {r.right} of {r.answered}
                </td>
                <td className="text-muted">
                  by chance in <span className="num">{percent(r.odds)}</span> %
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

const percent = (odds: number) => num(odds * 100, odds < 0.1 ? 1 : 0);
