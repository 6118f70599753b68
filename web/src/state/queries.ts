// What the server works out of a project, fetched again when it changes.
import { type Query, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { type Analysis, api, type Comparison, type Schemas, type VoiceSound } from "../api/client";
import { useProject } from "./project";

/** The value once it has stayed the same for ms. */
export function useSettled<T>(value: T, ms: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms);
    return () => clearTimeout(timer);
  }, [value, ms]);
  return settled;
}

/**
 * What is shown until an answer is there: the answer before, if it was of the
 * same thing (the first so many parts of the key), never that of another.
 */
export function ofTheSame<T>(key: readonly unknown[], parts: number) {
  return (before: T | undefined, query: Query<T, Error, T, readonly unknown[]> | undefined) =>
    query && key.slice(0, parts).every((k, i) => query.queryKey[i] === k) ? before : undefined;
}

const lately = new Map<string, { content: string; changes: number }>();

/**
 * How often what an answer depends on has changed, which stands for it in a key. What comes
 * back, as by an undo, is asked for anew: the server answers of what it has then, and an answer
 * that was on its way at a change may be of what came after.
 */
export function changesOf(what: string, content: unknown): number {
  const now = JSON.stringify(content) ?? "";
  const last = lately.get(what);
  if (last?.content === now) return last.changes;
  const changes = (last?.changes ?? 0) + 1;
  lately.set(what, { content: now, changes });
  return changes;
}

export const useInfo = () =>
  useQuery({ queryKey: ["info"], queryFn: api.info, staleTime: Number.POSITIVE_INFINITY });

export const useActiveReference = () =>
  useProject((p) => {
    const doc = p.state?.document;
    return doc?.references.find((r) => r.id === doc.active_reference) ?? null;
  });

export function useAnalysis() {
  const id = useProject((p) => p.state?.id) ?? "";
  const ref = useActiveReference();
  const changes = changesOf(`analysis ${id} ${ref?.id}`, ref?.corrections);
  const queryKey = ["analysis", id, ref?.id, changes] as const;
  return useQuery({
    queryKey,
    queryFn: () => api.analysis(id, ref?.id ?? ""),
    enabled: id !== "" && ref !== null,
    placeholderData: ofTheSame<Analysis>(queryKey, 3),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/**
 * The drums of a reference by themselves, asked for again until they are there. What else
 * depends on them is then asked for anew.
 */
export function useDrums(reference: string) {
  const client = useQueryClient();
  const id = useProject((p) => p.state?.id) ?? "";
  const ref = useProject((p) => p.state?.document.references.find((r) => r.id === reference));
  const changes = changesOf(`drums ${id} ${reference}`, [ref?.corrections, ref?.drums]);
  const queryKey = ["drums", id, reference, changes] as const;
  return useQuery<Schemas["DrumSet"], Error, Schemas["DrumSet"], readonly unknown[]>({
    queryKey,
    queryFn: async () => {
      const set = await api.drums(id, reference);
      const before = client.getQueryData<Schemas["DrumSet"]>(queryKey);
      if (set.done === 1 && before?.done !== 1)
        for (const what of ["analysis", "compare", "sound"])
          void client.invalidateQueries({ queryKey: [what, id] });
      return set;
    },
    enabled: id !== "" && ref !== undefined && ref.kind !== "profile",
    refetchInterval: (q) => (q.state.data && q.state.data.done < 1 ? 400 : false),
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
}

/** Mine, or another reference of the project, against the active reference. */
export function useCompare(other = "", beside: string[] = []) {
  const id = useProject((p) => p.state?.id ?? "");
  const version = useSettled(
    useProject((p) => p.state?.version ?? 0),
    250,
  );
  const reference = useProject((p) => p.state?.document.active_reference ?? "");
  const queryKey = ["compare", id, reference, other + beside.join(), version] as const;
  return useQuery<Comparison, Error, Comparison, readonly unknown[]>({
    queryKey,
    // Given up when the next edit makes it worthless.
    queryFn: ({ signal }) => api.compare(id, other, beside, signal),
    enabled: id !== "" && reference !== "",
    placeholderData: ofTheSame<Comparison>(queryKey, 4),
    retry: false,
  });
}

/** Other projects with the same reference: attempts at the same. */
export function useAttempts(project: string) {
  const reference = useActiveReference()?.name ?? "";
  const { data } = useQuery({ queryKey: ["projects"], queryFn: api.projects, staleTime: 10_000 });
  return (data?.projects ?? []).filter(
    (p) => p.id !== project && reference !== "" && p.reference === reference,
  );
}

/** What of each voice is still the reference's, where that is asked for. */
export function useOrigins(asked: boolean) {
  const { id, queryKey } = useOfGroove("origins");
  return useQuery<Schemas["OriginList"], Error, Schemas["OriginList"], readonly unknown[]>({
    queryKey,
    queryFn: () => api.origins(id),
    enabled: asked && id !== "",
    placeholderData: ofTheSame<Schemas["OriginList"]>(queryKey, 3),
    retry: false,
  });
}

/** How far each version of the project lay from the active reference. */
export function useDistances(compared: number) {
  const state = useProject((p) => p.state);
  const id = state?.id ?? "";
  return useQuery({
    queryKey: ["distances", id, state?.document.active_reference, compared],
    queryFn: () => api.distances(id),
    enabled: id !== "" && compared > 0,
    placeholderData: (before) => before,
  });
}

/** A voice drawn and measured; zoom is how much longer than usual its start is drawn. */
export function useVoiceSound(voice: string, zoom = 1) {
  const state = useProject((p) => p.state);
  const id = state?.id ?? "";
  const found = state?.document.kit.voices.find((v) => v.id === voice);
  const made = found?.layers;
  const changes = changesOf(`sound ${id} ${voice}`, [made, state?.document.targets]);
  const queryKey = ["sound", id, voice, changes, zoom] as const;
  return useQuery<VoiceSound, Error, VoiceSound, readonly unknown[]>({
    queryKey,
    queryFn: ({ signal }) => api.voiceSound(id, voice, zoom, signal),
    enabled: id !== "" && made !== undefined,
    placeholderData: ofTheSame<VoiceSound>(queryKey, 3),
    staleTime: 60_000,
  });
}

export const useProfiles = () => useQuery({ queryKey: ["profiles"], queryFn: api.profiles });

/** The key of what is worked out of the groove as it is now, and the project's id. */
function useOfGroove(what: string) {
  const state = useProject((p) => p.state);
  const version = useSettled(state?.version ?? 0, 250);
  const id = state?.id ?? "";
  return { id, queryKey: [what, id, state?.document.active_reference, version] as const };
}

/** How voices lie against each other. */
export function useBetween() {
  const { id, queryKey } = useOfGroove("between");
  return useQuery<Schemas["PairList"], Error, Schemas["PairList"], readonly unknown[]>({
    queryKey,
    queryFn: ({ signal }) => api.between(id, signal),
    enabled: id !== "",
    placeholderData: ofTheSame<Schemas["PairList"]>(queryKey, 3),
    retry: false,
  });
}

/** The project's grooves in numbers. */
export function useTries() {
  const { id, queryKey } = useOfGroove("tries");
  return useQuery<Schemas["TryList"], Error, Schemas["TryList"], readonly unknown[]>({
    queryKey,
    queryFn: ({ signal }) => api.tries(id, signal),
    enabled: id !== "",
    placeholderData: ofTheSame<Schemas["TryList"]>(queryKey, 3),
    retry: false,
  });
}

/** The grooves that ship. */
export const usePatterns = () =>
  useQuery({ queryKey: ["patterns"], queryFn: api.patterns, staleTime: Number.POSITIVE_INFINITY });

export const useFills = () =>
  useQuery({ queryKey: ["fills"], queryFn: api.fills, staleTime: Number.POSITIVE_INFINITY });

/** What the arrangement comes to in time, asked for once edits have settled for ms. */
export function usePiece(settles = 0) {
  const id = useProject((p) => p.state?.id ?? "");
  const newest = useProject((p) => p.state?.version ?? 0);
  const settled = useSettled(newest, settles);
  const queryKey = ["piece", id, settles > 0 ? settled : newest] as const;
  return useQuery<Schemas["PieceFacts"], Error, Schemas["PieceFacts"], readonly unknown[]>({
    queryKey,
    queryFn: ({ signal }) => api.piece(id, signal),
    enabled: id !== "",
    placeholderData: ofTheSame<Schemas["PieceFacts"]>(queryKey, 2),
    retry: false,
  });
}

/** The room that the arrangement leaves for a voice, asked for once edits have settled. */
export function useRoom(enabled: boolean) {
  const state = useProject((p) => p.state);
  const version = useSettled(state?.version ?? 0, 900);
  const id = state?.id ?? "";
  const queryKey = ["piece room", id, version] as const;
  return useQuery<Schemas["Space"], Error, Schemas["Space"], readonly unknown[]>({
    queryKey,
    queryFn: ({ signal }) => api.pieceRoom(id, signal),
    enabled: enabled && id !== "",
    placeholderData: ofTheSame<Schemas["Space"]>(queryKey, 2),
    retry: false,
  });
}

/** The shape of the active reference. */
export function useOutline(enabled: boolean) {
  const id = useProject((p) => p.state?.id ?? "");
  const ref = useActiveReference();
  return useQuery({
    queryKey: ["outline", id, ref?.id, changesOf(`outline ${id} ${ref?.id}`, ref?.corrections)],
    queryFn: () => api.outline(id, ref?.id ?? ""),
    enabled: enabled && id !== "" && ref?.kind === "audio",
    retry: false,
  });
}

/** How the backings are played; asked for again while one is being prepared. */
export function useBackings() {
  const state = useProject((p) => p.state);
  const id = state?.id ?? "";
  const queryKey = ["backings", id, state?.version ?? 0] as const;
  return useQuery<Schemas["BackingList"], Error, Schemas["BackingList"], readonly unknown[]>({
    queryKey,
    queryFn: ({ signal }) => api.backings(id, signal),
    enabled: id !== "" && (state?.document.arrangement.backings.length ?? 0) > 0,
    placeholderData: ofTheSame<Schemas["BackingList"]>(queryKey, 2),
    refetchInterval: (q) => (q.state.data?.backings.some((b) => !b.ready && b.problem === "") ? 400 : false),
    retry: false,
  });
}

/** The numbers that may be drawn over a section. */
export function useDrawable() {
  const state = useProject((p) => p.state);
  const id = state?.id ?? "";
  const queryKey = ["drawable", id, state?.version ?? 0] as const;
  return useQuery<Schemas["DrawableList"], Error, Schemas["DrawableList"], readonly unknown[]>({
    queryKey,
    queryFn: ({ signal }) => api.drawable(id, signal),
    enabled: id !== "",
    placeholderData: ofTheSame<Schemas["DrawableList"]>(queryKey, 2),
    retry: false,
  });
}

/** What is struck between two ticks of the arrangement. */
export function usePieceHits(from: number, to: number, enabled = true) {
  const state = useProject((p) => p.state);
  const id = state?.id ?? "";
  const queryKey = ["piece hits", id, from, to, state?.version ?? 0] as const;
  return useQuery<Schemas["PieceHits"], Error, Schemas["PieceHits"], readonly unknown[]>({
    queryKey,
    queryFn: ({ signal }) => api.pieceHits(id, from, to, signal),
    enabled: enabled && id !== "" && to > from,
    placeholderData: ofTheSame<Schemas["PieceHits"]>(queryKey, 4),
    retry: false,
  });
}

/** The library of sounds, kits and curves. */
export const useLibrary = () => useQuery({ queryKey: ["library"], queryFn: api.library, staleTime: 60_000 });

/** What the mix does, over the first bars. */
export function useMix() {
  const state = useProject((p) => p.state);
  const version = useSettled(state?.version ?? 0, 200);
  const id = state?.id ?? "";
  const queryKey = ["mix", id, version] as const;
  return useQuery<Schemas["Look"], Error, Schemas["Look"], readonly unknown[]>({
    queryKey,
    // Given up when the next edit makes it worthless.
    queryFn: ({ signal }) => api.mix(id, signal),
    enabled: id !== "",
    placeholderData: ofTheSame<Schemas["Look"]>(queryKey, 2),
    retry: false,
  });
}

/** The pitch and the MIDI key of each voice. */
export function useVoiceFacts() {
  const state = useProject((p) => p.state);
  const id = state?.id ?? "";
  const queryKey = ["voices", id, changesOf(`voices ${id}`, state?.document.kit.voices)] as const;
  return useQuery<Schemas["VoiceFactList"], Error, Schemas["VoiceFactList"], readonly unknown[]>({
    queryKey,
    queryFn: () => api.voices(id),
    enabled: id !== "",
    placeholderData: ofTheSame<Schemas["VoiceFactList"]>(queryKey, 2),
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** The MIDI note nearest to a voice's own pitch; 36 until it is known. */
export function useRoot(voice: string): number {
  return useVoiceFacts().data?.voices.find((v) => v.voice === voice)?.root_note ?? 36;
}

/** The library of chains. */
export const useChains = () => useQuery({ queryKey: ["chains"], queryFn: api.chains });
