// Listening closely to the stretch on show: slower, a part of it, with clicks.
import { Ear, SlidersHorizontal, Square } from "lucide-react";
import { type ReactNode, useEffect, useState } from "react";
import type { Family, Schemas } from "../../api/client";
import { useKeys } from "../../keys/useKeys";
import { monitor, useMonitor } from "../../live/monitor";
import { familyName } from "../../parts/family";
import { num } from "../../parts/format";

type Settings = Schemas["AuditionSettings"];
type How = Pick<Settings, "speed" | "keep_pitch" | "band" | "part" | "click"> & { family: Family | "" };

const start: How = { speed: 1, keep_pitch: true, band: "all", part: "all", family: "", click: "none" };

export function StudyBar(p: {
  reference: string;
  audio: boolean;
  from: number;
  to: number;
  /** The stretch was drawn by hand rather than being the bars on show. */
  chosen: boolean;
  families: string[];
  labelWidth: number;
  /** What stands beside the button: the overview. */
  children: ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const [how, setHow] = useState<How>(() => (p.audio ? start : { ...start, click: "hits" }));
  const studying = useMonitor((m) => m.studying);
  const { reference, from, to } = p;
  const stretch = { reference, from_s: from, to_s: to };
  const play = ({ family, ...h }: How) => monitor.study({ ...stretch, ...h, ...(family ? { family } : {}) });
  const change = (part: Partial<How>) => setHow((h) => ({ ...h, ...part }));
  // While it plays, another stretch or another way is heard at once.
  // biome-ignore lint/correctness/useExhaustiveDependencies: play follows from these
  useEffect(() => {
    if (useMonitor.getState().studying) void play(how);
  }, [how, reference, from, to]);
  useKeys("listening", {
    listen: () => (useMonitor.getState().studying ? monitor.stop() : void play(how)),
  });
  useEffect(
    () => () => {
      if (useMonitor.getState().studying) monitor.stop();
    },
    [],
  );
  const select = (
    label: string,
    value: string,
    options: [string, string][],
    set: (v: string) => void,
    disabled = false,
  ) => (
    <select
      aria-label={label}
      title={label}
      className="press min-w-0 px-1.5"
      value={value}
      disabled={disabled}
      onChange={(e) => set(e.target.value)}
    >
      {options.map(([v, text]) => (
        <option key={v} value={v}>
          {text}
        </option>
      ))}
    </select>
  );
  return (
    <section className="mb-1" aria-label="Listen closely">
      <div className="flex items-center">
        <div className="flex shrink-0 gap-1 pr-2" style={{ width: p.labelWidth }}>
          <button
            type="button"
            className="press min-w-0 grow px-1.5"
            aria-pressed={studying}
            title="Loops the bars on show, or the stretch you drew on the overview (L)"
            onClick={() => (studying ? monitor.stop() : void play(how))}
            aria-label={studying ? "Stop" : p.chosen ? `Listen to ${num(to - from, 1)} s` : "Listen closely"}
          >
            {studying ? <Square size={13} fill="currentColor" /> : <Ear size={15} />}
            {studying ? "Stop" : p.chosen ? `${num(to - from, 1)} s` : "Listen"}
          </button>
          <button
            type="button"
            className="press px-1.5"
            aria-expanded={open}
            aria-pressed={open}
            aria-label="Playback options"
            title="Playback options: slower, a part of it, with clicks"
            onClick={() => setOpen(!open)}
          >
            <SlidersHorizontal size={15} />
          </button>
        </div>
        {p.children}
      </div>
      {(open || studying) && (
        <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1">
          {select(
            "Speed",
            String(how.speed),
            [
              ["0.25", "25 %"],
              ["0.35", "35 %"],
              ["0.5", "50 %"],
              ["0.65", "65 %"],
              ["0.75", "75 %"],
              ["0.85", "85 %"],
              ["1", "100 %"],
            ],
            (v) => change({ speed: Number(v) }),
          )}
          {select(
            "What slowing down does to the pitch",
            how.keep_pitch ? "keep" : "tape",
            [
              ["keep", "pitch kept"],
              ["tape", "pitch follows speed"],
            ],
            (v) => change({ keep_pitch: v === "keep" }),
            how.speed === 1,
          )}
          {select(
            "Part of the spectrum",
            how.band,
            [
              ["all", "full range"],
              ["lows", "lows"],
              ["mids", "mids"],
              ["highs", "highs"],
            ],
            (band) => change({ band }),
            !p.audio,
          )}
          {select(
            "Percussive part, drums or the rest",
            how.part,
            [
              ["all", "whole sound"],
              ["percussive", "percussive"],
              ["rest", "the rest"],
              ["drums", "drums, modelled"],
              ["without_drums", "without the drums"],
            ],
            (part) => change({ part }),
            !p.audio,
          )}
          {select(
            "Only the hits of one family",
            how.family,
            [["", "every hit"], ...p.families.map((f): [string, string] => [f, `${familyName(f)} only`])],
            (family) => change({ family: family as Family | "" }),
          )}
          {select(
            "Clicks on top",
            how.click,
            [
              ["none", "no click"],
              ["beats", "click on beats"],
              ["hits", "click on hits"],
            ],
            (click) => change({ click }),
          )}
        </div>
      )}
    </section>
  );
}
