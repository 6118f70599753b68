// Mix: a row a voice, a bus and the output, each read from left to right as the sound
// flows; at the right what is chosen, and what the whole does.
import { useEffect, useState } from "react";
import type { State } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { useMonitor } from "../../live/monitor";
import { Choice } from "../../parts/Choice";
import { useProject } from "../../state/project";
import { useInfo, useMix } from "../../state/queries";
import { Build } from "./Build";
import { toggleBypass } from "./bypass";
import { ChainLibrary } from "./ChainLibrary";
import { EffectPanel } from "./EffectPanel";
import { Facts } from "./Facts";
import { MixRowLine } from "./MixRowLine";
import { RowSide } from "./RowSide";
import { findEffect, placeOf, rowsOf, useChosen } from "./rows";
import { TakeFrom } from "./TakeFrom";

export function Mix({ state }: { state: State }) {
  const edit = useProject((s) => s.edit);
  const info = useInfo().data;
  const { data: look, error } = useMix();
  const chosen = useChosen();
  const bypass = useMonitor((m) => m.bypass);
  const [taking, setTaking] = useState(false);
  const doc = state.document;
  const rows = rowsOf(doc);
  const row = rows.find((r) => r.row === chosen.row) ?? rows[0];
  const effect = row && chosen.row === row.row ? findEffect(row.chain, chosen.effect) : null;
  useEffect(() => {
    if (row && chosen.row !== row.row) chosen.set({ row: row.row, effect: "" });
  }, [row, chosen]);
  useMixKeys();
  if (!row || !info) return null;
  const seen = look?.rows.find((r) => r.row === row.row);
  return (
    <>
      <main className="flex min-w-0 grow flex-col overflow-y-auto px-4 py-3">
        <div className="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1">
          <h1 className="text-2xl">Mix</h1>
          <span className="grow truncate text-xs text-muted max-[1200px]:hidden">
            Signal flows left to right. Each picture shows what the effect does to this drum.
          </span>
          <span className="grow" />
          <button
            type="button"
            className={`press h-7 px-2.5 ${bypass?.row === "" ? "bg-row!" : ""}`}
            aria-pressed={bypass?.row === ""}
            title="All chains off and on at the same loudness (Shift B)"
            onClick={() => void toggleBypass("", "")}
          >
            {bypass?.row === "" ? "All bypassed" : "A/B all"}
          </button>
          <Build state={state} onTake={() => setTaking(true)} />
          <button
            type="button"
            className="press h-7 px-2.5"
            disabled={doc.mix.buses.length >= 16}
            title="A row that others go to"
            onClick={() =>
              edit([
                {
                  op: "bus.add",
                  rows: doc.mix.buses.length === 0 ? doc.kit.voices.map((v) => v.id) : [],
                  name: doc.mix.buses.length === 0 ? "Drums" : "",
                },
              ])
            }
          >
            Add a bus
          </button>
        </div>
        {taking && <TakeFrom state={state} onDone={() => setTaking(false)} />}
        {error && <p className="mb-2 text-sm text-error">The mix could not be measured: {error.message}</p>}
        <div className="flex flex-col gap-1">
          {rows.map((r) => (
            <MixRowLine
              key={r.row}
              row={r}
              doc={doc}
              look={look?.rows.find((l) => l.row === r.row)}
              info={info}
            />
          ))}
        </div>
        {rows.every((r) => r.chain.length === 0) && (
          <p className="mt-3 text-sm text-muted">
            Nothing is mixed yet: add an effect to a row with its +, or take a chain of the library at the
            right.
          </p>
        )}
      </main>
      <aside
        className="flex w-[272px] shrink-0 flex-col gap-2 overflow-y-auto border-l border-line bg-base-200 px-4 py-2.5"
        aria-label="Effect, row and balance"
      >
        <div className="shrink-0">
          <Choice
            label="At the right"
            value={chosen.library ? "chains" : effect ? "effect" : "row"}
            options={[
              ["effect", "Effect"],
              ["row", "Row"],
              ["chains", "Chains"],
            ]}
            disabled={(v) => v === "effect" && !effect && row.chain.length === 0}
            onChange={(v) =>
              chosen.set({
                library: v === "chains",
                effect:
                  v === "row" ? "" : v === "effect" ? (effect?.id ?? row.chain[0]?.id ?? "") : chosen.effect,
              })
            }
          />
        </div>
        {chosen.library ? (
          <ChainLibrary key={row.row} row={row} />
        ) : effect ? (
          <EffectPanel
            key={`${row.row} ${effect.id}`}
            row={row}
            effect={effect}
            picture={seen?.effects.find((p) => p.effect === effect.id)}
            info={info}
            doc={doc}
            within={findEffect(row.chain, placeOf(row.chain, effect.id)?.in ?? "")}
          />
        ) : (
          <RowSide key={row.row} row={row} doc={doc} look={seen} info={info} />
        )}
        <Facts look={look} doc={doc} />
      </aside>
    </>
  );
}

function useMixKeys() {
  const edit = useProject((s) => s.edit);
  /** Keys come faster than answers: each acts on what the ones before made. */
  const then = (act: () => void) => void useProject.getState().answered().then(act);
  const now = () => {
    const c = useChosen.getState();
    const { state } = useProject.getState();
    const rows = state ? rowsOf(state.document) : [];
    const row = rows.find((r) => r.row === c.row) ?? rows[0];
    const place = row && c.effect ? placeOf(row.chain, c.effect) : null;
    return { c, rows, row, place };
  };
  const move = (by: number) => {
    const { row, place, c } = now();
    if (!row || !place) return;
    const to = place.at + by;
    if (to < 0 || to >= place.list.length) return;
    edit([{ op: "effect.move", row: row.row, effect: c.effect, to, in: place.in, path: place.path }]);
  };
  useKeys("mix", {
    ab: (e) => {
      const { row, c } = now();
      if (e.shiftKey) void toggleBypass("", "");
      else if (row) void toggleBypass(row.row, c.effect);
    },
    off: () =>
      then(() => {
        const { row, place, c } = now();
        const s = place?.list[place.at];
        if (row && s) edit([{ op: "effect.switch", row: row.row, effect: c.effect, off: !s.off }]);
      }),
    remove: () =>
      then(() => {
        const { row, place, c } = now();
        if (!row || !place) return;
        edit([{ op: "effect.remove", row: row.row, effect: c.effect }]);
        c.set({ effect: place.list[place.at + 1]?.id ?? place.list[place.at - 1]?.id ?? "" });
      }),
    earlier: () => then(() => move(-1)),
    later: () => then(() => move(1)),
    effects: (e) => {
      const { row, place, c } = now();
      if (!row) return;
      const list = place?.list ?? row.chain;
      const at = place ? place.at + (e.key === "ArrowLeft" ? -1 : 1) : 0;
      c.set({ effect: list[Math.min(Math.max(at, 0), list.length - 1)]?.id ?? "" });
    },
    rows: (e) => {
      const { rows, row, c } = now();
      const at = rows.findIndex((r) => r.row === row?.row) + (e.key === "ArrowUp" ? -1 : 1);
      const next = rows[Math.min(Math.max(at, 0), rows.length - 1)];
      if (next) c.set({ row: next.row, effect: "" });
    },
    copy: () => {
      const { row, place, c } = now();
      const s = place?.list[place.at];
      if (row) c.set({ copied: s ? [s] : row.chain });
    },
    paste: () => {
      const { row, c } = now();
      if (row && c.copied.length > 0)
        edit([{ op: "chain.set", row: row.row, effects: c.copied, append: true, title: "pasted" }]);
    },
  });
}
