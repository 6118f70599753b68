// Fit: a recipe is searched that sounds as near as can be to the voice's target, another
// voice or a file. What is nearest is drawn over the target and heard in place meanwhile.
import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { api, type Layer, type Schemas, type Voice } from "../../api/client";
import { monitor } from "../../live/monitor";
import { num } from "../../parts/format";
import { NumberField } from "../../parts/NumberField";
import { type Asked, fitParts, useAsked, useFit, useFits } from "../../state/fits";
import { useProject } from "../../state/project";
import { useShaping } from "../../state/shaping";
import { Bands, Nearness, Over } from "./FitPlots";
import { partHints, partNames } from "./parts";
import { Tones } from "./Tones";
import { usePreview } from "./usePreview";

const lengths = [
  [300, "quick"],
  [1000, "normal"],
  [3000, "thorough"],
] as const;

export function Fit({ voice, layer }: { voice: Voice; layer: Layer | undefined }) {
  const id = useProject((p) => p.state?.id) ?? "";
  const document = useProject((p) => p.state?.document);
  const notify = useProject((p) => p.notify);
  const answered = useProject((p) => p.answered);
  const takeFit = useProject((p) => p.takeFit);
  const show = useShaping((s) => s.set);
  const client = useQueryClient();
  const preview = usePreview(voice);
  const { begin, stop, forget } = useFits.getState();
  const fit = useFit(id, voice.id);
  const own = document?.targets.find((t) => t.voice === voice.id);
  const { file, kind, parts, held, effects, tries, seed, ...chosen } = useAsked(id, voice.id);
  const aim = chosen.aim || (own ? "target" : "");
  const ask = (part: Partial<Asked>) => useFits.getState().ask(id, voice.id, part);
  const [attack, setAttack] = useState(false);
  const [inPlace, setInPlace] = useState(true);
  const [over, setOver] = useState(false);
  const picker = useRef<HTMLInputElement>(null);
  const others = document?.kit.voices.filter((v) => v.id !== voice.id) ?? [];
  const profiles = document?.references.filter((r) => r.profile?.tones?.[voice.family]) ?? [];
  const tones = profiles.find((r) => aim === `tones:${r.id}`);
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
  const chip = (on: boolean) => `press h-7 px-2 text-xs ${on ? "bg-row!" : ""}`;
  const flip = (list: string[], p: string) => (list.includes(p) ? list.filter((x) => x !== p) : [...list, p]);
  return (
    <section
      className={`flex min-h-0 grow flex-col gap-2 ${over ? "outline-2 outline-offset-2 outline-ref outline-dashed" : ""}`}
      aria-label="Fit"
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        setOver(false);
        void bring(e.dataTransfer.files);
      }}
    >
      <div className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-1.5 text-sm">
          fit to
          <select
            className="press h-8 max-w-[190px] px-1.5 text-sm"
            aria-label="What it is fitted to"
            value={aim}
            disabled={running}
            onChange={(e) =>
              e.target.value === "choose" ? picker.current?.click() : ask({ aim: e.target.value })
            }
          >
            {aim === "" && <option value="">choose…</option>}
            {own && <option value="target">its target</option>}
            {file && <option value="file">{file.name}</option>}
            <option value="choose">a file…</option>
            {profiles.map((r) => (
              <option key={r.id} value={`tones:${r.id}`}>
                the tones of {r.name}
              </option>
            ))}
            {others.map((v) => (
              <option key={v.id} value={`voice:${v.id}`}>
                the {v.name}
              </option>
            ))}
          </select>
        </label>
        <input
          ref={picker}
          type="file"
          className="hidden"
          aria-label="A sound file to fit to"
          onChange={(e) => {
            void bring(e.target.files);
            e.target.value = "";
          }}
        />
        {!tones && (
          <>
            <select
              className="press h-8 px-1.5 text-sm"
              aria-label="What is searched"
              value={kind}
              disabled={running}
              onChange={(e) => ask({ kind: e.target.value as Schemas["FitKind"] })}
            >
              <option value="recipe">a recipe</option>
              <option value="layers">up to 3 of the library</option>
            </select>
            <select
              className="press h-8 px-1.5 text-sm"
              aria-label="How many recipes are tried"
              value={tries}
              disabled={running || kind === "layers"}
              onChange={(e) => ask({ tries: Number(e.target.value) })}
            >
              {lengths.map(([n, text]) => (
                <option key={n} value={n}>
                  {text}, {n} tries
                </option>
              ))}
            </select>
            <div className="w-[96px]">
              <NumberField
                label="Seed"
                value={seed}
                unit=""
                min={1}
                max={9999}
                step={1}
                digits={0}
                onChange={(v) => ask({ seed: Math.round(v) })}
                compact
              />
            </div>
            {!running && (
              <button
                type="button"
                className="press press-strong"
                disabled={!ready || (kind === "recipe" && parts.length === 0)}
                onClick={() => void start()}
              >
                Fit
              </button>
            )}
          </>
        )}
        {running && (
          <>
            <button
              type="button"
              className="press press-strong"
              title="What is nearest now stays to be taken"
              onClick={() => void stop(id, voice.id)}
            >
              Stop and keep
            </button>
            <button type="button" className="press" onClick={giveUp}>
              Give up
            </button>
          </>
        )}
        <span className="grow" />
        <button type="button" className="press" onClick={() => show({ panel: "charts" })}>
          Done
        </button>
      </div>
      {tones && <Tones key={tones.id} voice={voice} layer={layer} reference={tones} />}
      <div className={`flex flex-wrap items-center gap-1.5 text-xs text-muted ${tones ? "hidden" : ""}`}>
        <fieldset
          className="flex flex-wrap items-center gap-1"
          aria-label="Parts that may be used"
          disabled={kind === "layers"}
        >
          {fitParts.map((p) => (
            <button
              key={p}
              type="button"
              className={chip(parts.includes(p))}
              title={partHints[p]}
              aria-pressed={parts.includes(p)}
              disabled={running}
              onClick={() => ask({ parts: flip(parts, p) })}
            >
              {partNames[p]}
            </button>
          ))}
          <button
            type="button"
            className={chip(effects)}
            title="Equalizers, and drive for kicks and 808s"
            aria-pressed={effects}
            disabled={running}
            onClick={() => ask({ effects: !effects })}
          >
            Effects
          </button>
        </fieldset>
        may be used
        <span className="grow" />
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            className="checkbox checkbox-xs"
            checked={inPlace}
            onChange={(e) => setInPlace(e.target.checked)}
          />
          in its place while it is searched
        </label>
      </div>
      {!soFar && !tones && (
        <p className="rowbox px-4 py-8 text-center text-sm text-muted" role="status">
          {running
            ? `${fit?.job.stage || "Waiting"}…`
            : own
              ? "Searches a recipe whose sound is as near as can be to the target: an ordinary one, to be edited on."
              : "This voice has no target. Make a drum of a reference its target in Reference, drop a file here, or choose another voice above."}
        </p>
      )}
      {soFar && !tones && (
        <>
          <div className="flex items-center gap-3">
            <progress
              className="progress h-1.5 grow"
              aria-label="How much is searched"
              value={soFar.done}
              max={1}
            />
            <span className="num shrink-0 text-sm" role="status">
              {running
                ? `${num(soFar.loss_db, 1)} dB away`
                : fit?.stopped
                  ? `stopped, ${num(soFar.result?.distance_db ?? soFar.loss_db, 1)} dB away`
                  : `${num(soFar.result?.distance_db ?? soFar.loss_db, 1)} dB away${soFar.result ? `, ${soFar.result.evaluations} tried` : ""}`}
            </span>
          </div>
          <Over soFar={soFar} voice={voice} />
          <div className="grid grid-cols-[minmax(0,1.1fr)_minmax(0,1fr)] gap-3">
            <Bands soFar={soFar} voice={voice} />
            <Nearness soFar={soFar} />
          </div>
          {!running && (
            <div className="flex flex-wrap items-center gap-2">
              <button
                type="button"
                className="press press-strong"
                disabled={!found}
                onClick={() => void take()}
              >
                Use
              </button>
              <button
                type="button"
                className="press"
                disabled={!found}
                onClick={() => {
                  if (!found) return;
                  preview.hear(found, title);
                  void answered().then(() => monitor.strike(voice.id));
                }}
              >
                Hear it
              </button>
              <button type="button" className="press" onClick={giveUp}>
                Back to what was there
              </button>
              <label className="flex items-center gap-1.5 text-xs text-muted">
                <input
                  type="checkbox"
                  className="checkbox checkbox-xs"
                  checked={attack}
                  onChange={(e) => setAttack(e.target.checked)}
                />
                with the target's own first 12 ms
              </label>
            </div>
          )}
          {!running && soFar.result && (
            <div className="flex flex-wrap items-center gap-2">
              <fieldset
                className="flex flex-wrap items-center gap-1 text-xs text-muted"
                aria-label="Parts that are held"
              >
                held:
                {fitParts.map((p) => (
                  <button
                    key={p}
                    type="button"
                    className={chip(held.includes(p))}
                    aria-pressed={held.includes(p)}
                    onClick={() => ask({ held: flip(held, p) })}
                  >
                    {partNames[p]}
                  </button>
                ))}
              </fieldset>
              <button
                type="button"
                className="press"
                disabled={!ready || !found}
                title="Takes this and searches on from it; held parts stay as they are"
                onClick={() => void again()}
              >
                Fit again from here
              </button>
            </div>
          )}
        </>
      )}
    </section>
  );
}
