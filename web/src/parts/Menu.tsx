// A button that opens a short list of things to do.
import * as Ariakit from "@ariakit/react";
import { ChevronDown } from "lucide-react";
import type { ReactNode } from "react";

export interface MenuItem {
  text: string;
  icon?: ReactNode;
  hint?: string;
  disabled?: boolean;
  /** Is shown only where the bar above has no room for its button. */
  narrow?: boolean;
  onClick: () => void;
}

/** The widest window, in pixels, whose bars have no room for all their buttons. */
const narrowBar = 1200;

/** The frame of what opens over the page. */
export const popup = "rounded-xl border border-line bg-base-100 shadow-lg";

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
  // A hidden item must not take the arrow keys.
  const items = p.items.filter((i) => !i.narrow || innerWidth <= narrowBar);
  return (
    <Ariakit.MenuProvider placement={`${p.up ? "top" : "bottom"}-${p.right ? "end" : "start"}`}>
      <Ariakit.MenuButton
        className={p.bare ? "cursor-pointer px-1 py-1.5" : "press px-2.5"}
        aria-label={p.name}
        title={p.title}
      >
        {p.face ?? (
          <>
            {p.label} <ChevronDown size={14} />
          </>
        )}
      </Ariakit.MenuButton>
      <Ariakit.Menu
        portal
        unmountOnHide
        gutter={4}
        aria-label={p.name ?? p.label}
        className={`z-40 max-h-[70vh] overflow-y-auto ${p.columns ? "grid w-[340px] grid-cols-3" : "w-[270px]"} ${popup} p-1.5`}
      >
        {items.map((i) => (
          <Ariakit.MenuItem
            key={i.text}
            render={<button type="button" />}
            disabled={i.disabled ?? false}
            className="block w-full cursor-pointer rounded-lg px-3 py-1.5 text-left text-sm hover:bg-base-300 data-active-item:bg-base-300 disabled:opacity-45"
            onClick={i.onClick}
          >
            <span className="flex items-center gap-2 font-medium">
              {i.icon}
              {i.text}
            </span>
            {i.hint && <span className="block text-xs text-muted">{i.hint}</span>}
          </Ariakit.MenuItem>
        ))}
      </Ariakit.Menu>
    </Ariakit.MenuProvider>
  );
}
