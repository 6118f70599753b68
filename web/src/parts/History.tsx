// The steps of the project's history by name; a click goes to one.
import { useQuery } from "@tanstack/react-query";
import { History as Clock } from "lucide-react";
import { useCallback, useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { useProject } from "../state/project";
import { useAway } from "./useAway";

export function History() {
  const state = useProject((p) => p.state);
  const goTo = useProject((p) => p.goTo);
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  const id = state?.id ?? "";
  const { data, error } = useQuery({
    queryKey: ["history", id, state?.version],
    queryFn: () => api.history(id),
    enabled: open && id !== "",
    placeholderData: (before) => before,
  });
  useAway(
    box,
    open,
    useCallback(() => setOpen(false), []),
  );
  const steps = [...(data?.changes ?? [])].reverse();
  // The present step is in sight when the list opens.
  const now = useRef<HTMLButtonElement>(null);
  const shown = steps.length > 0;
  useEffect(() => {
    if (open && shown) now.current?.focus();
  }, [open, shown]);
  const keys = (e: React.KeyboardEvent) => {
    if (e.key === "Escape") {
      e.stopPropagation();
      setOpen(false);
      box.current?.querySelector("button")?.focus();
    }
    if (e.key !== "ArrowDown" && e.key !== "ArrowUp") return;
    e.preventDefault();
    const all = [...(box.current?.querySelectorAll<HTMLElement>("li button") ?? [])];
    all[all.indexOf(document.activeElement as HTMLElement) + (e.key === "ArrowDown" ? 1 : -1)]?.focus();
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys belong to the list inside
    <div ref={box} className="relative" onKeyDown={open ? keys : undefined}>
      <button
        type="button"
        className="press px-2"
        aria-haspopup="true"
        aria-expanded={open}
        aria-label="History"
        title="History: go back to any step"
        onClick={() => setOpen(!open)}
      >
        <Clock size={15} />
      </button>
      {open && (
        <section
          aria-label="History"
          className="absolute top-9 right-0 z-30 flex max-h-[430px] w-[360px] flex-col rounded-xl border border-line bg-base-100 p-1.5 shadow-lg"
        >
          {error && <p className="px-3 py-2 text-error">{error.message}</p>}
          {!data && !error && <p className="px-3 py-2 text-muted">Reading…</p>}
          <ol className="min-h-0 grow overflow-y-auto">
            {steps.map((s) => {
              const isNow = s.position === data?.position;
              const ahead = s.position > (data?.position ?? 0);
              return (
                <li key={s.position}>
                  <button
                    ref={isNow ? now : null}
                    type="button"
                    aria-current={isNow ? "step" : undefined}
                    className={`flex w-full cursor-pointer items-baseline gap-3 rounded-lg px-3 py-1 text-left text-[13px] hover:bg-base-300 focus:bg-base-300 ${isNow ? "bg-row font-semibold" : ""} ${ahead ? "text-muted" : ""}`}
                    onClick={() => void goTo(s.position)}
                  >
                    <span className="min-w-0 grow">
                      {s.name || (s === steps.at(-1) ? "The beginning" : "A change")}
                    </span>
                    <time className="num shrink-0 text-[11px] text-muted" dateTime={s.at}>
                      {new Date(s.at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}
                    </time>
                  </button>
                </li>
              );
            })}
          </ol>
          <p className="border-t border-line px-3 pt-1.5 text-[11px] text-muted">
            Newest first. Changes above the marked one are undone. Your next change discards them.
          </p>
        </section>
      )}
    </div>
  );
}
