// What the server works out of a project, fetched again when it changes.
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { api } from "../api/client";
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

export const useInfo = () =>
  useQuery({ queryKey: ["info"], queryFn: api.info, staleTime: Number.POSITIVE_INFINITY });

export function useActiveReference() {
  const doc = useProject((p) => p.state?.document);
  return doc?.references.find((r) => r.id === doc.active_reference) ?? null;
}

export function useAnalysis() {
  const id = useProject((p) => p.state?.id) ?? "";
  const ref = useActiveReference();
  return useQuery({
    queryKey: ["analysis", id, ref?.id, ref?.corrections],
    queryFn: () => api.analysis(id, ref?.id ?? ""),
    enabled: id !== "" && ref !== null,
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
  });
}

/** Mine, or another reference of the project, against the active reference. */
export function useCompare(other = "") {
  const state = useProject((p) => p.state);
  const version = useSettled(state?.version ?? 0, 250);
  const id = state?.id ?? "";
  return useQuery({
    queryKey: ["compare", id, version, other],
    queryFn: () => api.compare(id, other),
    enabled: id !== "" && state?.document.active_reference !== "",
    placeholderData: keepPreviousData,
    retry: false,
  });
}

export function useVoiceSound(voice: string) {
  const state = useProject((p) => p.state);
  const id = state?.id ?? "";
  const found = state?.document.kit.voices.find((v) => v.id === voice);
  const made = found && [found.recipe, found.synth_off, found.layers];
  const targets = state?.document.targets;
  return useQuery({
    queryKey: ["sound", id, voice, made, targets],
    queryFn: () => api.voiceSound(id, voice),
    enabled: id !== "" && made !== undefined,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
}

export const useProfiles = () => useQuery({ queryKey: ["profiles"], queryFn: api.profiles });
