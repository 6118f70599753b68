// The changes of the project's history by name; a click goes to one.
import * as Ariakit from "@ariakit/react";
import { useQuery } from "@tanstack/react-query";
import { History as Clock } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { api } from "../api/client";
import { useProject } from "../state/project";
import { popup } from "./Menu";

export function History() {
  const state = useProject((p) => p.state);
  const goTo = useProject((p) => p.goTo);
  const [open, setOpen] = useState(false);
  const id = state?.id ?? "";
  const { data, error } = useQuery({
    queryKey: ["history", id, state?.version],
    queryFn: () => api.history(id),
    enabled: open && id !== "",
    placeholderData: (before) => before,
  });
  const changes = [...(data?.changes ?? [])].reverse();
  // The present change is in sight when the list opens.
  const now = useRef<HTMLButtonElement>(null);
  const shown = changes.length > 0;
  useEffect(() => {
    if (open && shown) now.current?.focus();
  }, [open, shown]);
  const arrows = (e: React.KeyboardEvent<HTMLElement>) => {
    if (e.key !== "ArrowDown" && e.key !== "ArrowUp") return;
    e.preventDefault();
    const all = [...e.currentTarget.querySelectorAll<HTMLElement>("li button")];
    all[all.indexOf(document.activeElement as HTMLElement) + (e.key === "ArrowDown" ? 1 : -1)]?.focus();
  };
  return (
    <Ariakit.PopoverProvider placement="bottom-end" open={open} setOpen={setOpen}>
      <Ariakit.PopoverDisclosure
        className="press px-2"
        aria-label="History"
        title="History: go back to any change"
      >
        <Clock size={15} />
      </Ariakit.PopoverDisclosure>
      <Ariakit.Popover
        portal
        unmountOnHide
        gutter={4}
        aria-label="History"
        onKeyDown={arrows}
        className={`z-40 flex max-h-[430px] w-[360px] flex-col ${popup} p-1.5`}
      >
        {error && <p className="px-3 py-2 text-error">{error.message}</p>}
        {!data && !error && <p className="px-3 py-2 text-muted">Reading…</p>}
        <ol className="min-h-0 grow overflow-y-auto">
          {changes.map((s) => {
            const isNow = s.position === data?.position;
            const ahead = s.position > (data?.position ?? 0);
            return (
              <li key={s.position}>
                <button
                  ref={isNow ? now : null}
                  type="button"
                  aria-current={isNow ? "step" : undefined}
                  className={`flex w-full cursor-pointer items-baseline gap-3 rounded-lg px-3 py-1 text-left text-sm hover:bg-base-300 focus:bg-base-300 ${isNow ? "bg-row font-semibold" : ""} ${ahead ? "text-muted" : ""}`}
                  onClick={() => void goTo(s.position)}
                >
                  <span className="min-w-0 grow">
                    {s.name || (s === changes.at(-1) ? "The beginning" : "A change")}
                  </span>
                  <time className="num shrink-0 text-2xs text-muted" dateTime={s.at}>
                    {new Date(s.at).toLocaleTimeString([], { hour: "2-digit", minute: "2-digit" })}
                  </time>
                </button>
              </li>
            );
          })}
        </ol>
        <p className="border-t border-line px-3 pt-1.5 text-2xs text-muted">
          Newest first. Changes above the marked one are undone. Your next change discards them.
        </p>
      </Ariakit.Popover>
    </Ariakit.PopoverProvider>
  );
}
