// The cleanest hits of each family, cut out: heard, measured, taken away, or
// made the target of the drums built in Sounds.
import { useQuery } from "@tanstack/react-query";
import { Download } from "lucide-react";
import { type Analysis, api, type Schemas } from "../../api/client";
import { useHearing } from "../../live/useHearing";
import { familyName, Glyph, hue } from "../../parts/family";
import { noteText, num } from "../../parts/format";
import { SmallWave } from "../../parts/SmallWave";
import { useProject } from "../../state/project";
import { changesOf, ofTheSame } from "../../state/queries";

export function Cuts({ analysis, reference }: { analysis: Analysis; reference: string }) {
  const state = useProject((s) => s.state);
  const edit = useProject((s) => s.edit);
  const addLayer = useProject((s) => s.addLayer);
  const id = state?.id ?? "";
  const queryKey = ["slices", id, reference, changesOf(`slices ${id} ${reference}`, analysis.hits)] as const;
  const { data, error } = useQuery({
    queryKey,
    queryFn: () => api.slices(id, reference),
    placeholderData: ofTheSame<Schemas["SliceList"]>(queryKey, 3),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const { hear } = useHearing();
  if (error) return <p className="py-6 text-muted">{error.message}</p>;
  if (!data) return <p className="py-6 text-muted">Cutting…</p>;
  const families = [...new Set(data.slices.map((s) => s.slice.family))];
  const play = (s: Schemas["Slice"]) =>
    hear(s.hit, { reference, from_s: s.from_s, to_s: s.to_s }, s.to_s - s.from_s);
  const targets = state?.document.targets ?? [];
  return (
    <div className="flex flex-col gap-1.5">
      <div className="flex items-center gap-3">
        <a className="press" href={api.slicesURL(id, reference)} download>
          <Download size={14} /> All as WAV
        </a>
        <span className="text-xs text-muted">
          Click a wave to hear it; the target stands beside your own drum in Sounds.
        </span>
      </div>
      {families.map((f) => (
        <div key={f} className="rowbox flex items-center gap-2 p-2">
          <div className="flex w-[104px] shrink-0 items-center gap-2 font-semibold">
            <Glyph family={f} size={16} /> {familyName(f)}
          </div>
          {data.slices
            .filter((s) => s.slice.family === f)
            .map((s) => {
              const aimed = targets.find((t) => t.reference === reference && t.slice?.hit === s.slice.hit);
              return (
                <div
                  key={s.slice.hit}
                  className={`min-w-0 flex-1 rounded-lg border p-1.5 ${aimed ? "border-ref bg-row" : "border-line bg-base-100"}`}
                >
                  <button
                    type="button"
                    className="block w-full cursor-pointer"
                    aria-label={`Hear the ${familyName(f)} at ${num(s.slice.from_s, 2)} s`}
                    onClick={() => play(s.slice)}
                  >
                    <SmallWave points={s.wave.points as [number, number][]} colour={hue(f)} />
                  </button>
                  <div className="num mt-0.5 text-2xs leading-4 text-muted">
                    {s.measures.fundamental_hz
                      ? `${num(s.measures.fundamental_hz, 0)} Hz ${noteText(s.measures.fundamental_hz).split(" ")[0]}`
                      : "no pitch"}
                    , {s.measures.decay_60db_ms ? `${num(s.measures.decay_60db_ms, 0)} ms` : "–"}
                    <br />
                    clean {num(s.slice.clean * 100, 0)} %
                    {s.slice.low_cut_hz > 0 ? `, from ${num(s.slice.low_cut_hz, 0)} Hz` : ""}
                  </div>
                  <select
                    aria-label={`Make the ${familyName(f)} at ${num(s.slice.from_s, 2)} s the target of a voice`}
                    title="What a voice is built towards"
                    className="mt-0.5 w-full cursor-pointer bg-transparent text-xs"
                    value={aimed?.voice ?? ""}
                    onChange={(e) =>
                      edit([
                        e.target.value === ""
                          ? { op: "target.clear", voice: aimed?.voice ?? "" }
                          : {
                              op: "target.set",
                              target: { voice: e.target.value, reference, slice: s.slice },
                            },
                      ])
                    }
                  >
                    <option value="">{aimed ? "no target" : "target of…"}</option>
                    {(state?.document.kit.voices ?? []).map((v) => (
                      <option key={v.id} value={v.id}>
                        target of {v.name}
                      </option>
                    ))}
                  </select>
                  <select
                    aria-label={`Layer the ${familyName(f)} at ${num(s.slice.from_s, 2)} s on a voice`}
                    title="Adds this slice as a layer to a voice of your kit"
                    className="mt-0.5 w-full cursor-pointer bg-transparent text-xs"
                    value=""
                    onChange={(e) => {
                      const voice = e.target.value;
                      void addLayer(voice, { reference, slice: s.slice });
                    }}
                  >
                    <option value="">add as a layer to…</option>
                    {(state?.document.kit.voices ?? []).map((v) => (
                      <option key={v.id} value={v.id}>
                        {v.name}
                      </option>
                    ))}
                  </select>
                </div>
              );
            })}
        </div>
      ))}
      {families.length === 0 && <p className="py-6 text-muted">No hit stands free enough to cut out.</p>}
    </div>
  );
}
