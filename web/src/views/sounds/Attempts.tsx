// Attempts at a sound: kept as they are, heard against each other at the same
// loudness, one of them taken.
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Layer, type Voice } from "../../api/client";
import { num } from "../../parts/format";
import { useProject } from "../../state/project";
import { usePreview } from "./usePreview";

/** Layers so much louder. */
export const louder = (layers: Layer[], db: number): Layer[] =>
  layers.map((l) => ({ ...l, level_db: Math.min(Math.max(l.level_db + db, -48), 12) }));

export function Attempts({ voice }: { voice: Voice }) {
  const id = useProject((p) => p.state?.id) ?? "";
  const notify = useProject((p) => p.notify);
  const client = useQueryClient();
  const preview = usePreview(voice);
  const [heard, setHeard] = useState("");
  const queryKey = ["attempts", id, voice.id];
  const { data } = useQuery({
    queryKey,
    queryFn: () => api.attempts(id, voice.id),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const attempts = data?.attempts ?? [];
  const keep = async () => {
    try {
      client.setQueryData(queryKey, await api.keepAttempt(id, voice.id, ""));
    } catch (e) {
      notify((e as Error).message);
    }
  };
  const hear = async (attempt: string) => {
    // How loud it is now is measured where it is needed.
    const now = heard === "" ? await api.attempts(id, voice.id).catch(() => data) : data;
    if (heard === "" && now) client.setQueryData(queryKey, now);
    const a = now?.attempts.find((x) => x.id === attempt);
    if (!a || !now) return;
    setHeard(attempt);
    preview.hear(louder(a.layers, now.now_lufs - a.lufs), `${a.name}, at the same loudness`);
  };
  const back = () => {
    preview.back();
    setHeard("");
  };
  const take = () => {
    const a = attempts.find((x) => x.id === heard);
    if (a) preview.hear(a.layers, a.name);
    preview.take();
    setHeard("");
  };
  const chip = (on: boolean) => `press h-7 px-2 text-xs ${on ? "bg-row! border-base-content/60!" : ""}`;
  return (
    <fieldset className="flex min-w-0 grow flex-wrap items-center gap-1.5" aria-label="Attempts">
      <button
        type="button"
        className="press h-7 px-2 text-xs"
        title="Keeps this sound, to be heard against others"
        onClick={() => void keep()}
      >
        Keep this attempt
      </button>
      {attempts.length > 0 && (
        <button type="button" className={chip(heard === "")} aria-pressed={heard === ""} onClick={back}>
          now
        </button>
      )}
      {attempts.map((a) => (
        <button
          key={a.id}
          type="button"
          className={chip(heard === a.id)}
          aria-pressed={heard === a.id}
          title="Hear it in place, as loud as the present one"
          onClick={() => void hear(a.id)}
        >
          {a.name}
        </button>
      ))}
      {heard !== "" && data && (
        <>
          <span className="text-xs text-muted">
            as loud as now, by{" "}
            <span className="num">
              {num(data.now_lufs - (attempts.find((a) => a.id === heard)?.lufs ?? 0), 1, true)} dB
            </span>
          </span>
          <button type="button" className="press h-7 px-2 text-xs" onClick={take}>
            Use
          </button>
        </>
      )}
    </fieldset>
  );
}
