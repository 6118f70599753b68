// The recording of an effect, such as an impulse response: chosen from a file or dropped here.
import { AudioLines, X } from "lucide-react";
import { useRef, useState } from "react";
import { useProject } from "../../state/project";
import type { Effect, MixRow } from "./rows";

export function RecordingChoice({ row, effect }: { row: MixRow; effect: Effect }) {
  const edit = useProject((s) => s.edit);
  const give = useProject((s) => s.effectRecording);
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const take = (file: File | undefined) => {
    if (file) void give(row.row, effect.id, file);
  };
  return (
    <fieldset
      aria-label="Impulse response"
      className={`flex items-center gap-1.5 rounded-lg border border-dashed px-2 py-1 text-sm ${over ? "border-primary" : "border-line"}`}
      onDragOver={(e) => {
        if (!e.dataTransfer.types.includes("Files")) return;
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        setOver(false);
        take(e.dataTransfer.files[0]);
      }}
    >
      <AudioLines size={14} className="shrink-0 text-muted" aria-hidden="true" />
      <span className="min-w-0 grow truncate" title={effect.recording?.name ?? ""}>
        {effect.recording?.name ?? "No impulse response: drop a sound here"}
      </span>
      <button type="button" className="press h-7 px-2 text-xs" onClick={() => input.current?.click()}>
        {effect.recording ? "Replace…" : "Choose…"}
      </button>
      {effect.recording && (
        <button
          type="button"
          className="press h-7 px-1.5"
          aria-label="Remove the impulse response"
          title="Remove"
          onClick={() => edit([{ op: "effect.recording", row: row.row, effect: effect.id, recording: null }])}
        >
          <X size={13} />
        </button>
      )}
      <input
        ref={input}
        type="file"
        accept="audio/*,.wav,.aif,.aiff,.flac,.mp3"
        className="hidden"
        aria-label="Impulse response file"
        onChange={(e) => {
          take(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
    </fieldset>
  );
}
