// What stands below the rows: one of several panels.
import { memo } from "react";
import type { State } from "../../api/client";
import { Choice } from "../../parts/Choice";
import { useActiveReference, useAnalysis } from "../../state/queries";
import { Between } from "./Between";
import { FeelByStep } from "./FeelByStep";
import { Grooves } from "./Grooves";
import { Ideas } from "./Ideas";
import { PlayIn } from "./PlayIn";
import { usePanels } from "./panels";
import { Tries } from "./Tries";

export const Below = memo(function Below({ state, width }: { state: State; width: number }) {
  const panels = usePanels();
  const analysis = useAnalysis().data;
  const reference = useActiveReference();
  return (
    <section className="mt-3">
      <Choice
        label="Below the rows"
        value={panels.below}
        options={[
          ["steps", "Feel by step"],
          ["between", "Between voices"],
          ["variations", "Variations"],
          ["grooves", "Grooves"],
          ["ideas", "Ideas"],
          ["play", "Record live"],
        ]}
        onChange={(below) => panels.set({ below })}
      />
      <div className="mt-2">
        {panels.below === "steps" && (
          <>
            <p className="text-xs text-muted">
              ms from the straight grid; filled is mine, hollow the reference over all its bars; shaded: too
              small to hear
            </p>
            {width > 0 && (
              <FeelByStep state={state} analysis={reference ? analysis : undefined} width={width} />
            )}
          </>
        )}
        {panels.below === "between" && <Between state={state} width={width} />}
        {panels.below === "variations" && <Tries state={state} />}
        {panels.below === "grooves" && <Grooves state={state} />}
        {panels.below === "ideas" && <Ideas state={state} />}
        {panels.below === "play" && <PlayIn state={state} />}
      </div>
    </section>
  );
});
