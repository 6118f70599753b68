// The list of effects that may be added to a chain, by what they are for.
import * as Ariakit from "@ariakit/react";
import { Plus } from "lucide-react";
import type { Info } from "../../api/client";
import { effectGroups, sentence } from "../../parts/effects";
import { popup } from "../../parts/Menu";

export function AddEffect(p: {
  info: Info;
  name: string;
  disabled?: boolean;
  onAdd: (kind: string) => void;
}) {
  return (
    <Ariakit.MenuProvider placement="bottom-start">
      <Ariakit.MenuButton
        className="press px-2.5"
        aria-label={p.name}
        title="Add an effect"
        disabled={p.disabled ?? false}
      >
        <Plus size={14} />
      </Ariakit.MenuButton>
      <Ariakit.Menu
        portal
        unmountOnHide
        gutter={4}
        aria-label={p.name}
        className={`z-40 grid w-[760px] grid-cols-6 gap-1 ${popup} p-2`}
      >
        {effectGroups(p.info.effects.filter((k) => !k.recipes)).map(([group, kinds]) => (
          <Ariakit.MenuGroup key={group}>
            <Ariakit.MenuGroupLabel className="px-2 pb-0.5 text-2xs text-muted">
              {sentence(group)}
            </Ariakit.MenuGroupLabel>
            {kinds.map((k) => (
              <Ariakit.MenuItem
                key={k.id}
                render={<button type="button" />}
                title={k.hint}
                className="block w-full cursor-pointer rounded-lg px-2 py-1 text-left text-xs leading-tight hover:bg-base-300 data-active-item:bg-base-300"
                onClick={() => p.onAdd(k.id)}
              >
                {k.label}
              </Ariakit.MenuItem>
            ))}
          </Ariakit.MenuGroup>
        ))}
      </Ariakit.Menu>
    </Ariakit.MenuProvider>
  );
}
