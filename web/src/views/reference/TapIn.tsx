// Tapping a groove in: on the keyboard, on pads, or with a controller, to a
// click with a count-in. The take is measured like any other reference.
import { Circle, Square } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import type { State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { count as counted, num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { hasMIDI, takes } from "../../standin/controller";
import { useProject } from "../../state/project";
import { medianOffset } from "./clock";
import { Pads } from "./Pads";
import { TakePlot } from "./TakePlot";
import { useTake } from "./useTake";

const saved = () => Number(localStorage.getItem("tap latency") ?? "0");

export function TapIn({ state, onClose }: { state: State; onClose: () => void }) {
  const box = useRef<HTMLDialogElement>(null);
  const [tempo, setTempo] = useState(state.document.tempo[0]?.bpm ?? 100);
  const [bars, setBars] = useState(4);
  const [late, setLate] = useState(saved);
  const [from, setFrom] = useState("pads");
  const beats = state.document.groove.meter.beats;
  const { addTake } = useProject.getState();
  const { voices } = state.document.kit;
  const take = useTake({ tempo, beats, bars, late, from, voices });
  const { recording, count, hits, setHits, lit, played, strike, record, end } = take;
  useEffect(() => box.current?.showModal(), []);
  const offset = medianOffset(hits, tempo);
  return (
    <dialog
      ref={box}
      onClose={onClose}
      aria-label="Tap in"
      className="m-auto w-[820px] max-w-[94vw] rounded-xl border border-line bg-base-100 p-5 text-base-content backdrop:bg-black/40"
    >
      <div className="mb-3 flex items-center gap-3">
        <h2 className="grow text-2xl">Tap a groove in</h2>
        <button type="button" className="press" onClick={() => box.current?.close()}>
          Close
        </button>
      </div>
      <div className="mb-3 flex flex-wrap items-end gap-4">
        <div className="w-[150px]">
          <NumberField
            compact
            label="Tempo"
            value={tempo}
            unit="BPM"
            min={30}
            max={300}
            step={1}
            digits={1}
            onChange={setTempo}
          />
        </div>
        <Choice
          label="Bars to record"
          value={bars}
          options={[
            [1, "1 bar"],
            [2, "2"],
            [4, "4"],
            [8, "8"],
          ]}
          onChange={setBars}
        />
        <select
          aria-label="Played with"
          className="press w-[230px] px-2"
          value={from}
          onChange={(e) => {
            setFrom(e.target.value);
            const take = takes[Number(e.target.value.slice(5))];
            if (e.target.value.startsWith("take ") && take) setTempo(take.tempo_bpm);
          }}
        >
          <option value="pads">keys and pads</option>
          {hasMIDI() && <option value="midi">MIDI controller</option>}
          {takes.map((t, i) => (
            <option key={t.name} value={`take ${i}`}>
              simulated: {t.name}
            </option>
          ))}
        </select>
        <div className="w-[160px]">
          <NumberField
            compact
            label="Latency"
            value={late}
            unit="ms"
            min={-100}
            max={250}
            step={1}
            digits={0}
            reset={0}
            hint="Taken off every hit: how late your keys or pads arrive"
            onChange={(v) => {
              setLate(v);
              localStorage.setItem("tap latency", String(v));
            }}
          />
        </div>
      </div>
      <Pads lit={lit} onStrike={strike} />
      <div className="flex items-center gap-3">
        {recording ? (
          <button type="button" className="press press-strong" onClick={() => end(true)}>
            <Square size={13} fill="currentColor" /> Stop
          </button>
        ) : (
          <button type="button" className="press press-strong" onClick={() => void record()}>
            <Circle size={13} fill="currentColor" /> {hits.length > 0 ? "Record again" : "Record"}
          </button>
        )}
        <span className="num text-base" role="status">
          {recording
            ? `${count}${played > 0 ? `, ${counted(played, "hit")}` : ""}`
            : hits.length > 0
              ? `${counted(hits.length, "hit")}, ${num(offset, 0, true)} ms on the whole`
              : ""}
        </span>
        <span className="grow" />
        {hits.length > 0 && (
          <>
            <button
              type="button"
              className="press"
              title="Uses how late this take was as the latency from now on"
              onClick={() => {
                const next = Math.min(Math.max(Math.round(late + offset), -100), 250);
                setLate(next);
                localStorage.setItem("tap latency", String(next));
                setHits((all) => all.map((h) => ({ ...h, time_s: h.time_s - offset / 1000 })));
              }}
            >
              Use as latency
            </button>
            <button
              type="button"
              className="press press-strong"
              onClick={async () => {
                const name = from.startsWith("take ")
                  ? (takes[Number(from.slice(5))]?.name ?? "Take")
                  : "Tapped take";
                await addTake({ name, tempo_bpm: tempo, beats, hits });
                box.current?.close();
              }}
            >
              Use as reference
            </button>
          </>
        )}
      </div>
      {hits.length > 0 && <TakePlot hits={hits} tempo={tempo} bars={bars} beats={beats} />}
    </dialog>
  );
}
