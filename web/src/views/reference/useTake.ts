// Recording a take to a click: what is struck, when, and how it is counted.
import { useEffect, useRef, useState } from "react";
import type { Voice } from "../../api/client";
import { monitor } from "../../live/monitor";
import { listenToMIDI, playBack, type Stroke, takes } from "../../standin/controller";
import { useProject } from "../../state/project";
import { ClickClock, type Tapped } from "./clock";

/** How long the end of a take waits for strokes that were made before it, ms: a page that is held brings them late. */
const arriving = 120;

interface How {
  /** BPM of the click. */
  tempo: number;
  /** Of a bar. */
  beats: number;
  bars: number;
  /** How late strokes arrive, ms. */
  late: number;
  /** What plays: pads, midi, or "take " and the number of a recorded one. */
  from: string;
  voices: Voice[];
}

export function useTake({ tempo, beats, bars, late, from, voices }: How) {
  const [recording, setRecording] = useState(false);
  const [count, setCount] = useState("");
  const [hits, setHits] = useState<Tapped[]>([]);
  const [lit, setLit] = useState("");
  const [played, setPlayed] = useState(0);
  const clock = useRef<ClickClock | null>(null);
  const stops = useRef<(() => void)[]>([]);
  const strokes = useRef<Stroke[]>([]);
  const beat = 60 / tempo;
  const { notify } = useProject.getState();

  const strike = (s: Stroke) => {
    strokes.current.push(s);
    setPlayed(strokes.current.length);
    const voice = voices.find((v) => v.family === s.family);
    if (voice) void monitor.strike(voice.id, s.velocity);
    setLit(s.family);
    setTimeout(() => setLit((l) => (l === s.family ? "" : l)), 90);
  };
  const struck = useRef(strike);
  struck.current = strike;

  /** The strokes as times from bar one. */
  const tapped = (): Tapped[] => {
    const c = clock.current;
    if (c?.start() == null) return [];
    return strokes.current
      .map((s) => ({
        time_s: (s.at - late - (c?.start(s.at) ?? 0)) / 1000 - beats * beat,
        family: s.family,
        velocity: s.velocity,
      }))
      .filter((h) => h.time_s > -beat / 2 && h.time_s < bars * beats * beat - 0.02);
  };

  const ends = useRef(0);
  const end = (keep: boolean) => {
    ends.current++;
    for (const stop of stops.current) stop();
    stops.current = [];
    monitor.watch = null;
    monitor.stop();
    if (keep) setHits(tapped());
    setRecording(false);
    setCount("");
  };
  const finish = useRef(end);
  finish.current = end;

  const record = async () => {
    setHits([]);
    strokes.current = [];
    setPlayed(0);
    setRecording(true);
    setCount("…");
    const before = ends.current;
    const total = (bars + 1) * beats * beat;
    const heard = await monitor.study({
      click: "beats",
      tempo_bpm: tempo,
      beats,
      bars: bars + 2, // one to count in, one in reserve so that the loop never comes round
    });
    if (ends.current !== before) {
      monitor.stop(); // it was given up before the click began
      return;
    }
    if (!heard) {
      end(false);
      return;
    }
    const output = (monitor.context?.outputLatency ?? 0) * 1000;
    const c = new ClickClock((bars + 2) * beats * beat, output);
    clock.current = c;
    let played = false;
    let over = false;
    monitor.watch = (r, at) => {
      if (!r.studying || over) return;
      c.hear(r.position, at);
      const start = c.start() ?? at;
      const now = (performance.now() - start) / 1000;
      if (now >= total) {
        over = true;
        const ending = setTimeout(() => finish.current(true), arriving);
        stops.current.push(() => clearTimeout(ending));
        return;
      }
      const at0 = Math.floor(now / beat);
      setCount(
        at0 < beats
          ? `count-in ${at0 + 1}`
          : `bar ${Math.floor(at0 / beats)} of ${bars}, ${(at0 % beats) + 1}`,
      );
      if (!played && now > (beats - 0.6) * beat && from.startsWith("take ")) {
        played = true;
        const take = takes[Number(from.slice(5))];
        if (take)
          stops.current.push(
            playBack(
              take,
              tempo,
              () => (c.start() ?? start) + late + beats * beat * 1000,
              (s) => struck.current(s),
            ),
          );
      }
    };
    if (from === "midi") {
      try {
        stops.current.push(await listenToMIDI((s) => struck.current(s)));
      } catch (cause) {
        end(false);
        notify(
          cause instanceof Error
            ? cause.message
            : "The browser blocked MIDI. Allow it beside the address, then try again; your take is kept.",
        );
      }
    }
  };

  useEffect(() => () => finish.current(false), []);
  return {
    recording,
    /** Where the click is, in words. */
    count,
    /** The strokes of the last take, from bar one. */
    hits,
    setHits,
    /** The family that was struck just now. */
    lit,
    /** Strokes so far. */
    played,
    strike,
    record,
    end,
  };
}
