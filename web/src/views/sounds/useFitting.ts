// What is asked of a voice's fit, what it has found, and what is done with that.
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type Layer, type Voice } from "../../api/client";
import { monitor } from "../../live/monitor";
import { type Asked, useAsked, useFit, useFits } from "../../state/fits";
import { useProject } from "../../state/project";
import { usePreview } from "./usePreview";

export type Fitted = ReturnType<typeof useFitting>;

export function useFitting(voice: Voice) {
  const id = useProject((p) => p.state?.id) ?? "";
  const document = useProject((p) => p.state?.document);
  const notify = useProject((p) => p.notify);
  const answered = useProject((p) => p.answered);
  const takeFit = useProject((p) => p.takeFit);
  const client = useQueryClient();
  const preview = usePreview(voice);
  const { begin, forget } = useFits.getState();
  const fit = useFit(id, voice.id);
  const own = document?.targets.find((t) => t.voice === voice.id);
  const asked = useAsked(id, voice.id);
  const { file, kind, parts, held, effects, tries, seed } = asked;
  const aim = asked.aim || (own ? "target" : "");
  const ask = (part: Partial<Asked>) => useFits.getState().ask(id, voice.id, part);
  const [attack, setAttack] = useState(false);
  const [inPlace, setInPlace] = useState(true);
  const running = fit?.job.status === "running" || fit?.job.status === "waiting";
  const soFar = fit?.soFar ?? null;
  const found = soFar && soFar.layers.length > 0 ? soFar.layers : null;
  const title = `Fit to ${soFar?.target || "a target"}`;
  // What is nearest takes the voice's place as it comes.
  const heard = useRef<Layer[] | null>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only what is found moves this on
  useEffect(() => {
    if (!found || !inPlace || heard.current === found) return;
    heard.current = found;
    preview.hear(found, title);
  }, [found, inPlace]);
  const bring = async (files: FileList | null) => {
    const f = files?.[0];
    if (!f) return;
    try {
      ask({ file: await api.fitTo(f), aim: "file" });
    } catch (e) {
      notify((e as Error).message);
    }
  };
  const start = async (from?: Layer) => {
    const failed = await begin(
      id,
      voice.id,
      {
        kind,
        reference: "",
        drum: null,
        voice: aim.startsWith("voice:") ? aim.slice(6) : "",
        file: aim === "file" ? (file?.id ?? "") : "",
        parts,
        held: from ? held : [],
        layer: from ? from.id : "",
        effects,
        evaluations: tries,
        seed,
      },
      voice.layers,
    );
    if (failed) notify(failed);
  };
  // What was found is the voice's sound first, so that the search can go on from it.
  const again = async () => {
    const id = found?.[0]?.id;
    await take();
    const now = useProject.getState().state?.document.kit.voices.find((v) => v.id === voice.id);
    const from = now?.layers.find((l) => l.id === id);
    if (from?.recipe) await start(from);
  };
  const take = async () => {
    if (!found || !fit) return;
    const gesture = preview.gesture;
    preview.take();
    heard.current = null;
    await answered();
    await takeFit(voice.id, fit.job.id, attack, gesture);
    forget(id, voice.id);
    await client.invalidateQueries({ queryKey: ["attempts", id, voice.id] });
  };
  // Also where what is nearest came into its place while another panel was open.
  const giveUp = () => {
    const before = fit?.before ?? preview.before;
    if (JSON.stringify(voice.layers) !== JSON.stringify(before)) preview.hear(before, "as it was");
    preview.take();
    heard.current = null;
    forget(id, voice.id);
  };
  const ready = aim === "target" ? own !== undefined : aim !== "" && (aim !== "file" || file !== null);
  const hear = () => {
    if (!found) return;
    preview.hear(found, title);
    void answered().then(() => monitor.strike(voice.id));
  };
  return {
    asked: { ...asked, aim },
    ask,
    bring,
    /** Whether the voice has a target of its own. */
    hasTarget: own !== undefined,
    ready,
    running,
    stage: fit?.job.stage ?? "",
    stopped: fit?.stopped ?? false,
    soFar,
    /** Layers that are nearest so far. */
    found,
    inPlace,
    setInPlace,
    attack,
    setAttack,
    start: () => void start(),
    stop: () => void useFits.getState().stop(id, voice.id),
    again: () => void again(),
    take: () => void take(),
    giveUp,
    hear,
  };
}
