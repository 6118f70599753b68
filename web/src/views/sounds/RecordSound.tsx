// Recording a sound with the microphone: a count-in, the level shown, silence
// trimmed, one more layer in the end.
import { useEffect, useRef, useState } from "react";
import { mostSeconds, record, type Take } from "../../live/microphone";
import { refusal } from "../../live/recording";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";

type Stage = "opening" | "ready" | "counting" | "recording" | "bringing";

export function RecordSound({ voice, onDone }: { voice: string; onDone: () => void }) {
  const notify = useProject((p) => p.notify);
  const addLayer = useProject((p) => p.addLayer);
  const tidy = useProject((p) => p.tidyLayer);
  const bpm = useProject((p) => p.state?.document.tempo[0]?.bpm) ?? 100;
  const [stage, setStage] = useState<Stage>("opening");
  const [count, setCount] = useState(0);
  const [level, setLevel] = useState(0);
  const [seconds, setSeconds] = useState(0);
  const take = useRef<Take | null>(null);
  const done = useRef(onDone);
  done.current = onDone;
  useEffect(() => {
    let gone = false;
    record((peak, s) => {
      setLevel((was) => Math.max(peak, was * 0.9));
      setSeconds(s);
    })
      .then((t) => {
        if (gone) return t.cancel();
        take.current = t;
        setStage("ready");
      })
      .catch((e: unknown) => {
        if (gone) return;
        notify(refusal(e));
        done.current();
      });
    return () => {
      gone = true;
      take.current?.cancel();
      take.current = null;
    };
  }, [notify]);
  // Four beats at the song's tempo, seen rather than heard: nothing is to be recorded.
  useEffect(() => {
    if (stage !== "counting") return;
    const timer = setTimeout(() => {
      if (count > 1) setCount(count - 1);
      else {
        take.current?.keep();
        setStage("recording");
      }
    }, 60_000 / bpm);
    return () => clearTimeout(timer);
  }, [stage, count, bpm]);
  const stop = async () => {
    const t = take.current;
    take.current = null;
    if (!t) return;
    setStage("bringing");
    await addLayer(voice, await t.stop());
    const made = useProject
      .getState()
      .state?.document.kit.voices.find((v) => v.id === voice)
      ?.layers.at(-1);
    if (made?.recording) await tidy(voice, made.id);
    onDone();
  };
  const full = useRef(stop);
  full.current = stop;
  useEffect(() => {
    if (stage === "recording" && seconds >= mostSeconds) void full.current();
  }, [stage, seconds]);
  const db = level > 0 ? 20 * Math.log10(level) : -90;
  return (
    <section
      className="rowbox mb-1.5 flex items-center gap-3 px-3 py-2"
      aria-label="Record with the microphone"
    >
      <div className="h-2 w-[180px] overflow-hidden rounded bg-base-300" aria-hidden="true">
        <div
          className={`h-full ${db > -1 ? "bg-error" : "bg-info"}`}
          style={{ width: `${Math.min(Math.max((db + 60) / 60, 0), 1) * 100}%` }}
        />
      </div>
      <span className="num w-[70px] text-xs">{db > -89 ? `${num(db, 0)} dBFS` : "–"}</span>
      <span className="grow text-sm" role="status">
        {stage === "opening" && "Opening the microphone…"}
        {stage === "ready" &&
          (db > -1 ? "Too loud: turn it down." : "Make a noise: the level should come near the right end.")}
        {stage === "counting" && <span className="font-display text-xl font-semibold">{count}</span>}
        {stage === "recording" && `Recording: ${num(seconds, 1)} of ${mostSeconds} s`}
        {stage === "bringing" && "Trimming…"}
      </span>
      {stage === "ready" && (
        <button
          type="button"
          className="press bg-neutral! text-neutral-content!"
          onClick={() => {
            setCount(4);
            setStage("counting");
          }}
        >
          Count in and record
        </button>
      )}
      {stage === "recording" && (
        <button type="button" className="press bg-neutral! text-neutral-content!" onClick={() => void stop()}>
          Stop
        </button>
      )}
      <button type="button" className="press" onClick={onDone}>
        Cancel
      </button>
    </section>
  );
}
