// What is said of the whole mix: who covers whom with what helps, headroom, and what the
// speaker simulation leaves out.
import type { Document, Schemas } from "../../api/client";
import { useMonitor } from "../../live/monitor";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";
import { useChosen } from "./rows";

export function Facts({ look, doc }: { look: Schemas["Look"] | undefined; doc: Document }) {
  const edit = useProject((s) => s.edit);
  const system = useMonitor((m) => m.system);
  if (!look) return null;
  const name = (id: string) => doc.kit.voices.find((v) => v.id === id)?.name ?? id;
  const kick = doc.kit.voices.find((v) => v.family === "kick");
  const heard = look.systems.find((s) => s.system === system);
  return (
    <section aria-label="The whole mix" className="flex flex-col gap-1.5 border-t border-line pt-2">
      <h2 className="text-lg">Masking</h2>
      {look.covers.length === 0 && <p className="text-xs text-muted">Nothing is masked in these bars.</p>}
      {look.covers.slice(0, 4).map((c) => (
        <div
          key={`${c.covers} ${c.covered}`}
          className="rounded-lg border border-line bg-base-100 px-2 py-1 text-xs"
        >
          <div className="flex">
            <span className="grow font-semibold">
              {name(c.covers)} masks {name(c.covered)}
            </span>
            <span className="num">{num(c.by_db)} dB</span>
          </div>
          <div className="flex items-center">
            <span className="num grow text-2xs text-muted">
              {num(c.from_hz, 0)} to {num(c.to_hz, 0)} Hz
            </span>
            <button
              type="button"
              className="press h-6 px-2 text-2xs"
              title={`An equalizer in ${name(c.covers)} at ${num(c.cut.hz, 0)} Hz; then it is measured again`}
              onClick={() => {
                edit([
                  {
                    op: "effect.add",
                    row: c.covers,
                    kind: "equalizer",
                    to: 99,
                    values: {
                      "band1.shape": 0,
                      "band2.shape": 0,
                      "band4.shape": 0,
                      "band7.shape": 0,
                      "band3.hz": Math.round(c.cut.hz),
                      "band3.gain_db": Math.round(c.cut.gain_db * 2) / 2,
                      "band3.q": Math.round(c.cut.q * 100) / 100,
                    },
                  },
                ]);
                useChosen.getState().set({ row: c.covers, effect: "" });
              }}
            >
              Cut {num(-c.cut.gain_db, 0)} dB in {name(c.covers)}
            </button>
          </div>
        </div>
      ))}
      <h2 className="text-lg">Whole mix</h2>
      <p className="text-xs">
        Headroom{" "}
        <span className={`num ${look.headroom_db < 0 ? "font-semibold text-error" : ""}`}>
          {num(look.headroom_db)}
        </span>{" "}
        dB{look.headroom_db < 0 ? ": over full scale" : ""}.{" "}
        {look.loudest !== "" &&
          (kick && look.loudest === kick.id ? (
            <>The kick is the loudest.</>
          ) : (
            <>
              {name(look.loudest)} is the loudest{kick ? ", not the kick" : ""}.
            </>
          ))}
        {look.latency_ms > 0.05 && (
          <>
            {" "}
            Lookahead adds <span className="num">{num(look.latency_ms)}</span> ms of latency.
          </>
        )}
      </p>
      {heard && heard.system !== "full" && (
        <div role="status" aria-label="Lost on this speaker">
          <p className="text-xs text-muted">
            {heard.label}: {heard.says}.
          </p>
          {heard.lost.length === 0 ? (
            <p className="text-xs">Nothing is lost in the lows or in stereo.</p>
          ) : (
            heard.lost.map((l) => (
              <p key={l} className="text-xs">
                {l}
              </p>
            ))
          )}
        </div>
      )}
      <p className="text-2xs text-muted">
        Measured over {look.bars === 1 ? "the first bar" : `the first ${look.bars} bars`}.
      </p>
    </section>
  );
}
