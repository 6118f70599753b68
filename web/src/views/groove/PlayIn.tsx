// Playing in while the groove goes round: with the keyboard, the simulated controller or
// a real one.
import { useEffect, useRef, useState } from "react";
import type { Edit, Family, State, Voice } from "../../api/client";
import { pads } from "../../keys/useKeys";
import { monitor, useMonitor } from "../../live/monitor";
import { Choice } from "../../parts/Choice";
import { familyName } from "../../parts/family";
import { NumberField } from "../../parts/NumberField";
import { hasMIDI, listenToMIDI, playBack, type Stroke, takes } from "../../standin/controller";
import { useProject } from "../../state/project";
import { useInfo, useVoiceFacts } from "../../state/queries";
import { ppq } from "../../state/ticks";

/** The keys that play, in the order of the rows. */
const padKeys = [..."zxcvasdfqwer"];
/** Strokes are written so much later, so that none is heard a second time, ms. */
const settle = 260;

/**
 * The voice that a stroke plays: the one that has its key, else the first of its family,
 * else of a family that stands in for that.
 */
export function voiceFor(
  s: Stroke,
  voices: Voice[],
  keys: Map<number, string>,
  relations: (f: Family) => Family[],
): Voice | undefined {
  const of = (f: Family) => voices.find((v) => v.family === f);
  const own = voices.find((v) => s.key !== undefined && v.id === keys.get(s.key));
  if (own) return own;
  for (const f of [s.family, ...relations(s.family)]) {
    const v = of(f);
    if (v) return v;
  }
  return undefined;
}

export function PlayIn({ state }: { state: State }) {
  const edit = useProject((p) => p.edit);
  const notify = useProject((p) => p.notify);
  const playing = useMonitor((m) => m.playing);
  const [armed, setArmed] = useState(false);
  const [mode, setMode] = useState<"over" | "replace" | "erase">("over");
  const [towards, setTowards] = useState<"feel" | "grid">("feel");
  const [straighten, setStraighten] = useState(0);
  const [count, setCount] = useState(0);
  const cleared = useRef(new Set<string>());
  const facts = useVoiceFacts().data?.voices;
  const info = useInfo().data;
  const keys = new Map(facts?.map((f) => [f.midi_key, f.voice]));
  const relations = (f: Family) => info?.relations[info.families.indexOf(f)] ?? [];
  const latest = useRef({
    mode,
    towards,
    straighten,
    voices: state.document.kit.voices,
    bpm: 120,
    keys,
    relations,
  });
  latest.current = {
    keys,
    relations,
    mode,
    towards,
    straighten,
    voices: state.document.kit.voices,
    bpm: state.document.tempo[0]?.bpm ?? 120,
  };

  useEffect(() => {
    if (!armed) return;
    cleared.current.clear();
    setCount(0);
    const down = new Map<string, number>(); // up to where each held row has been erased
    const erase = () => {
      const to = monitor.now(latest.current.bpm);
      for (const [voice, from] of down) {
        eraseBetween(voice, from, to, edit);
        down.set(voice, to);
      }
    };
    const passing = setInterval(erase, 120);
    const stroke = (voice: Voice, velocity: number, at: number) => {
      const now = latest.current;
      void monitor.strike(voice.id, velocity);
      const { playing, studying, loop } = useMonitor.getState();
      if (!playing || studying || now.mode === "erase") return;
      // What is heard now left the worklet a little ago.
      const late = (monitor.context?.outputLatency ?? 0) * 1000;
      const tick = monitor.now(now.bpm, at - late);
      if (tick < 0) return; // still counting in
      setCount((n) => n + 1);
      setTimeout(() => {
        const edits: Edit[] = [];
        if (now.mode === "replace" && !cleared.current.has(voice.id)) {
          cleared.current.add(voice.id);
          edits.push({ op: "groove.clear", voice: voice.id });
        }
        edits.push({
          op: "take.play",
          voice: voice.id,
          at_ticks: tick,
          velocity,
          straighten_percent: now.straighten,
          towards: now.towards,
          ...(loop ? { from_ticks: loop.from, to_ticks: loop.to } : {}),
        });
        edit(edits);
      }, settle);
    };
    const voiceOf = (key: string) => latest.current.voices[padKeys.indexOf(key.toLowerCase())];
    pads.armed = padKeys;
    const onDown = (e: KeyboardEvent) => {
      const el = e.target as HTMLElement;
      if (e.ctrlKey || e.metaKey || e.altKey || /^(INPUT|TEXTAREA|SELECT)$/.test(el.tagName)) return;
      const voice = voiceOf(e.key);
      if (!voice) return;
      e.preventDefault();
      e.stopPropagation();
      if (e.repeat) return;
      if (latest.current.mode === "erase") {
        if (useMonitor.getState().playing) down.set(voice.id, monitor.now(latest.current.bpm));
        return;
      }
      stroke(voice, e.shiftKey ? 122 : 100, e.timeStamp);
    };
    const onUp = (e: KeyboardEvent) => {
      const voice = voiceOf(e.key);
      if (!voice || !down.has(voice.id)) return;
      erase();
      down.delete(voice.id);
    };
    addEventListener("keydown", onDown, true);
    addEventListener("keyup", onUp, true);
    strokeBy.current = (s) => {
      const voice = voiceFor(s, latest.current.voices, latest.current.keys, latest.current.relations);
      if (voice) stroke(voice, s.velocity, s.at);
      else notify(`Nothing in this kit plays ${familyName(s.family)}${s.key ? `, key ${s.key}` : ""}.`);
    };
    return () => {
      pads.armed = [];
      clearInterval(passing);
      strokeBy.current = null;
      removeEventListener("keydown", onDown, true);
      removeEventListener("keyup", onUp, true);
    };
  }, [armed, edit, notify]);
  const strokeBy = useRef<((s: Stroke) => void) | null>(null);
  const [stop, setStop] = useState<(() => void) | null>(null);

  const controller = async () => {
    if (stop) {
      stop();
      setStop(null);
      return;
    }
    try {
      const end = await listenToMIDI((s) => strokeBy.current?.(s));
      setStop(() => end);
    } catch (e) {
      notify((e as Error).message);
    }
  };
  return (
    <section className="flex gap-5" aria-label="Record live">
      <div className="flex w-[330px] shrink-0 flex-col gap-2">
        <div className="flex items-center gap-2">
          <button
            type="button"
            className={`press px-3 ${armed ? "border-primary! bg-primary! text-primary-content!" : ""}`}
            aria-pressed={armed}
            onClick={() => setArmed(!armed)}
          >
            {armed ? "Recording" : "Record"}
          </button>
          <span className="text-xs text-muted" role="status">
            {armed ? (playing ? `${count} strokes` : "press Space to start") : "not yet"}
          </span>
        </div>
        <Choice
          label="What playing does"
          value={mode}
          options={[
            ["over", "Overdub", "Existing hits stay"],
            ["replace", "Replace", "The first stroke of a row clears it"],
            ["erase", "Erase", "Hold a key: hits go while they pass"],
          ]}
          onChange={setMode}
        />
        <NumberField
          label="Input quantize"
          value={straighten}
          unit="%"
          min={0}
          max={100}
          digits={0}
          step={10}
          reset={0}
          onChange={setStraighten}
        />
        <p className="-mb-1 text-xs text-muted">towards</p>
        <Choice
          label="Towards"
          value={towards}
          options={[
            ["feel", "the feel", "Where the groove's feel puts it"],
            ["grid", "the grid", "Onto the grid, whatever the feel"],
          ]}
          onChange={setTowards}
        />
        <div className="flex flex-wrap gap-1">
          {takes.map((t) => (
            <button
              key={t.name}
              type="button"
              className="press h-7 px-2 text-xs"
              disabled={!armed || !playing}
              title="The simulated controller plays a recorded take from the next beat on"
              onClick={() => {
                const bpm = latest.current.bpm;
                const at = monitor.now(bpm);
                const wait = ((Math.ceil(at / (4 * ppq)) * 4 * ppq - at) * 60000) / (bpm * ppq);
                const start = performance.now() + wait;
                playBack(
                  t,
                  bpm,
                  () => start,
                  (s) => strokeBy.current?.(s),
                );
              }}
            >
              Pads: {t.name}
            </button>
          ))}
          {hasMIDI() && (
            <button
              type="button"
              className="press h-7 px-2 text-xs"
              disabled={!armed}
              aria-pressed={stop !== null}
              onClick={() => void controller()}
            >
              {stop ? "Leave the controller" : "Connect a controller"}
            </button>
          )}
        </div>
      </div>
      <div className="min-w-0 grow">
        <p className="mb-1 text-xs text-muted">
          These keys play the rows; with Shift, an accent. The loop, the click and the count-in are at the
          foot of the page.
        </p>
        <div className="flex flex-wrap gap-1.5">
          {state.document.kit.voices.slice(0, padKeys.length).map((v, i) => (
            <span key={v.id} className="flex items-center gap-1.5 rounded-lg bg-base-200 px-2 py-1 text-sm">
              <kbd className="num rounded border border-line bg-base-100 px-1.5 text-xs">
                {padKeys[i]?.toUpperCase()}
              </kbd>
              {v.name}
            </span>
          ))}
        </div>
      </div>
    </section>
  );
}

/** Takes the hits of a row away that passed between two places, also over the end. */
function eraseBetween(voice: string, from: number, to: number, edit: (e: Edit[]) => void) {
  const lane = useProject.getState().state?.document.groove.lanes.find((l) => l.voice === voice);
  if (!lane) return;
  const passed = (tick: number) => (from <= to ? tick >= from && tick <= to : tick >= from || tick <= to);
  const hits = lane.hits.filter((h) => passed(h.tick)).map((h) => ({ voice, hit: h.id }));
  if (hits.length > 0) edit([{ op: "hit.delete", hits }]);
}
