// A button that opens a short list of things to do.
import { ChevronDown } from "lucide-react";
import { type ReactNode, useCallback, useEffect, useRef, useState } from "react";
import { useAway } from "./useAway";

export interface MenuItem {
  text: string;
  icon?: ReactNode;
  hint?: string;
  disabled?: boolean;
  /** Is shown only where the bar above has no room for its button. */
  narrow?: boolean;
  onClick: () => void;
}

export function Menu(p: {
  label: string;
  /** For screen readers, where the label alone would not say enough. */
  name?: string;
  /** What the button says, where that is more than its label. */
  face?: ReactNode;
  title?: string;
  /** Opens to the left, at the right end of a bar. */
  right?: boolean;
  /** Short items stand in columns. */
  columns?: boolean;
  /** Opens upwards, at the foot of a page. */
  up?: boolean;
  /** Without a frame, beside a field. */
  bare?: boolean;
  items: MenuItem[];
}) {
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!open) return;
    box.current?.querySelector<HTMLElement>("[role=menuitem]:not(:disabled)")?.focus();
  }, [open]);
  useAway(
    box,
    open,
    useCallback(() => setOpen(false), []),
  );
  const keys = (e: React.KeyboardEvent) => {
    if (e.key === "Escape") {
      e.stopPropagation();
      setOpen(false);
      box.current?.querySelector<HTMLElement>("[aria-haspopup]")?.focus();
    }
    if (e.key !== "ArrowDown" && e.key !== "ArrowUp") return;
    e.preventDefault();
    const all = [
      ...(box.current?.querySelectorAll<HTMLElement>("[role=menuitem]:not(:disabled)") ?? []),
    ].filter((el) => el.offsetParent !== null);
    const at = all.indexOf(document.activeElement as HTMLElement);
    all[(at + (e.key === "ArrowDown" ? 1 : -1) + all.length) % all.length]?.focus();
  };
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: the keys belong to the menu inside
    <div ref={box} className="relative" onKeyDown={open ? keys : undefined}>
      <button
        type="button"
        className={p.bare ? "cursor-pointer px-1 py-1.5" : "press px-2.5"}
        aria-haspopup="menu"
        aria-expanded={open}
        aria-label={p.name}
        title={p.title}
        onClick={() => setOpen(!open)}
      >
        {p.face ?? (
          <>
            {p.label} <ChevronDown size={14} />
          </>
        )}
      </button>
      {open && (
        <div
          role="menu"
          aria-label={p.name ?? p.label}
          className={`absolute ${p.up ? "bottom-9" : p.bare ? "top-7" : "top-9"} ${p.right ? "right-0" : "left-0"} z-30 max-h-[70vh] overflow-y-auto ${p.columns ? "grid w-[340px] grid-cols-3" : "w-[270px]"} rounded-xl border border-line bg-base-100 p-1.5 shadow-lg`}
        >
          {p.items.map((i) => (
            <button
              key={i.text}
              type="button"
              role="menuitem"
              disabled={i.disabled}
              className={`block w-full cursor-pointer rounded-lg px-3 py-1.5 text-left text-[13px] hover:bg-base-300 focus:bg-base-300 disabled:opacity-45 ${i.narrow ? "min-[1201px]:hidden" : ""}`}
              onClick={() => {
                setOpen(false);
                i.onClick();
              }}
            >
              <span className="flex items-center gap-2 font-medium">
                {i.icon}
                {i.text}
              </span>
              {i.hint && <span className="block text-[12px] text-muted">{i.hint}</span>}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}
