// Hearing other sounds in a voice's place before one is taken: all that is tried is
// one change of the history, and Escape brings back what was there.
import { useEffect, useRef } from "react";
import type { Layer, Voice } from "../../api/client";
import { newGesture, useProject } from "../../state/project";

export function usePreview(voice: Voice) {
  const edit = useProject((p) => p.edit);
  const was = useRef<{ voice: string; layers: Layer[]; gesture: string; tried: boolean } | null>(null);
  if (was.current?.voice !== voice.id)
    was.current = { voice: voice.id, layers: voice.layers, gesture: newGesture(), tried: false };
  const begin = was.current;
  // Leaving without a word keeps what is heard.
  useEffect(() => {
    return () => {
      was.current = null;
    };
  }, []);
  return {
    /** Plays layers in the voice's place, tuned to a note where one is given. */
    hear: (layers: Layer[], title: string, note: string | null = null) => {
      // What was changed meanwhile is part of what comes back.
      if (!begin.tried) begin.layers = voice.layers;
      begin.tried = true;
      const tuned = note ? [{ op: "voice.note" as const, voice: voice.id, note }] : [];
      edit([{ op: "voice.sound", voice: voice.id, layers, title }, ...tuned], begin.gesture);
    },
    /** What is heard is what the next try is set against. */
    take: () => {
      was.current = null;
    },
    back: () => {
      if (begin.tried)
        edit(
          [{ op: "voice.sound", voice: voice.id, layers: begin.layers, title: "as it was" }],
          begin.gesture,
        );
      was.current = null;
    },
    before: begin.layers,
    /** The change of the history that tries share. */
    gesture: begin.gesture,
  };
}
