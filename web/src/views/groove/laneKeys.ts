// What the keys of a row do: the cursor moves at once, edits wait for the answers
// to those before them.
import type { Edit, State } from "../../api/client";
import { rowKeys } from "../../keys/useKeys";
import { monitor, useMonitor } from "../../live/monitor";
import { clamp } from "../../parts/format";
import { setNumber } from "../../state/numbers";
import { useProject } from "../../state/project";
import { chosen, copy, laneOf, paste, repeat, useSelection } from "../../state/selection";
import { type Axis, isRoll } from "./layout";
import { everySecondBar, hitsLike } from "./select";

/** What a key acts on: the state and the selection as they are when it is its turn. */
interface Now {
  state: State;
  at: { id: string } | undefined;
  picked: { voice: string; hit: string }[];
}

/** Reveal brings the cursor into sight. */
export function laneKeys(
  voice: string,
  axis: Axis,
  stepTicks: number,
  lasts: number,
  reveal: (tick: number) => void,
) {
  const set = (s: Parameters<ReturnType<typeof useSelection.getState>["set"]>[0]) =>
    useSelection.getState().set(s);
  const act = (edits: (now: Now, e: KeyboardEvent) => Edit[]) => (e: KeyboardEvent) => {
    // Keys come faster than answers: each acts on what the ones before made.
    void useProject
      .getState()
      .answered()
      .then(() => {
        const { state, edit } = useProject.getState();
        if (!state) return;
        const sel = useSelection.getState();
        const at = laneOf(state, voice).find((h) => h.tick === sel.tick);
        // Hits that an undo or another variation took away are no longer chosen.
        const there = chosen(state, sel.hits).map((c) => c.ref);
        const picked = there.length > 0 ? there : at ? [{ voice, hit: at.id }] : [];
        edit(edits({ state, at, picked }, e));
      });
  };
  const by = (number: string, picked: Now["picked"], amount: number): Edit[] =>
    picked.length > 0 ? [{ op: "hit.by", hits: picked, number, by: amount }] : [];
  const number = (hits: Now["picked"], values: Record<string, number>): Edit[] =>
    hits.length > 0
      ? Object.entries(values).map(([number, value]) => ({ op: "hit.set", hits, number, value }))
      : [];
  const sideways = (e: KeyboardEvent) => (e.key === "ArrowLeft" ? -1 : 1);
  const go = (to: (e: KeyboardEvent) => number, reach = false) =>
    act(({ state }, e) => {
      const sel = useSelection.getState();
      const tick = to(e);
      const there = laneOf(state, voice).find((h) => h.tick === tick);
      const one = there ? [{ voice, hit: there.id }] : [];
      const others = sel.hits.filter((s) => s.voice !== voice || s.hit !== there?.id);
      set({ voice, tick, hits: reach ? [...others, ...one] : one });
      reveal(tick);
      return [];
    });
  const aside = (e: KeyboardEvent) =>
    (Math.round(useSelection.getState().tick / stepTicks + sideways(e)) * stepTicks + lasts) % lasts;
  return rowKeys("groove", {
    cursor: go(aside),
    ends: go((e) => (e.key === "Home" ? 0 : lasts - stepTicks)),
    reach: go(aside, true),
    rows: (e) => {
      const rows = [...document.querySelectorAll<HTMLElement>("[data-lane]")];
      const at = rows.findIndex((r) => r.dataset.lane === voice);
      rows[at + (e.key === "ArrowUp" ? -1 : 1)]?.focus();
    },
    place: act(({ at }) => {
      if (at) return [{ op: "hit.delete", hits: [{ voice, hit: at.id }] }];
      void monitor.strike(voice, 100);
      return [{ op: "hit.add", voice, tick: useSelection.getState().tick }];
    }),
    velocity: act(({ picked }, e) =>
      by("velocity", picked, (e.key === "ArrowUp" ? 1 : -1) * (e.shiftKey ? 1 : 5)),
    ),
    nudge: act(({ picked }, e) => by("nudge_ms", picked, sideways(e) * (e.shiftKey ? 0.2 : 1))),
    move: act(({ picked }, e) => {
      const ticks = sideways(e) * stepTicks;
      const tick = clamp(useSelection.getState().tick + ticks, 0, lasts - stepTicks);
      set({ tick });
      reveal(tick);
      return picked.length > 0 ? [{ op: "hit.move", hits: picked, ticks }] : [];
    }),
    copy: act(({ state }) => {
      copy(state);
      return [];
    }),
    paste: act(() => paste(useSelection.getState().tick, axis.total)),
    repeat: act(({ state }) => repeat(state, axis.barTicks, axis.total)),
    remove: act(({ picked }) => {
      set({ hits: [] });
      return picked.length > 0 ? [{ op: "hit.delete", hits: picked }] : [];
    }),
    row: act(({ state }) => {
      set({ hits: laneOf(state, voice).map((h) => ({ voice, hit: h.id })) });
      return [];
    }),
    all: act(({ state }) => {
      set({
        hits: state.document.groove.lanes.flatMap((l) => l.hits.map((h) => ({ voice: l.voice, hit: h.id }))),
      });
      return [];
    }),
    hear: () => void monitor.strike(voice),
    ghost: act(({ picked }) => (picked.length > 0 ? [{ op: "hit.accent", hits: picked, as: "ghost" }] : [])),
    accent: act(({ picked }) =>
      picked.length > 0 ? [{ op: "hit.accent", hits: picked, as: "accent" }] : [],
    ),
    drop: act(({ picked }) => (picked.length > 0 ? [{ op: "hit.accent", hits: picked, as: "drop" }] : [])),
    roll: act(({ state, picked }) => {
      const on = chosen(state, picked).some((c) => isRoll(c.hit));
      return number(
        picked,
        on
          ? { "roll.per_beat": 0, "roll.strokes": 0 }
          : { "roll.per_beat": useSelection.getState().rate, length_ticks: stepTicks },
      );
    }),
    flam: act(({ state, picked }) => {
      const on = chosen(state, picked).some((c) => (c.hit.flam?.strokes ?? 0) > 0);
      return number(
        picked,
        on ? { "flam.strokes": 0 } : { "flam.strokes": 1, "flam.spacing_ms": 18, "flam.level_db": -12 },
      );
    }),
    open: act(({ state, picked }) =>
      chosen(state, picked).some((c) => isRoll(c.hit) || (c.hit.flam?.strokes ?? 0) > 0)
        ? [{ op: "hit.open", hits: picked }]
        : [],
    ),
    shift: act((_, e) => [{ op: "lane.shift", voice, steps: e.key === "[" ? -1 : 1 }]),
    octave: act(({ picked }, e) =>
      picked.length > 0
        ? [{ op: "hit.transpose", hits: picked, degrees: 0, octaves: e.key === "PageUp" ? 1 : -1 }]
        : [],
    ),
    scale: act(({ picked }, e) =>
      picked.length > 0 ? [{ op: "hit.transpose", hits: picked, degrees: e.key === "PageUp" ? 1 : -1 }] : [],
    ),
    like: act(({ state, at }) => {
      if (at) set({ hits: hitsLike(state, voice, at.id) });
      return [];
    }),
    odd: act(({ state }) => {
      set({ hits: everySecondBar(state, useSelection.getState().hits, axis.barTicks) });
      return [];
    }),
    alone: () => {
      const { solo } = useMonitor.getState();
      monitor.setSolo(solo.includes(voice) ? solo.filter((v) => v !== voice) : [...solo, voice]);
    },
    mute: act(({ state }) => {
      const v = state.document.kit.voices.find((k) => k.id === voice);
      return [setNumber(`${voice}/mute`, v?.mute ? 0 : 1)];
    }),
    straighten: act(({ picked }) =>
      picked.length > 0 ? [{ op: "hit.straighten", hits: picked, percent: 100, towards: "feel" }] : [],
    ),
  });
}
