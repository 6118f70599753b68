// At the right of Arrange: the chosen section or thing, what can be put at the cursor,
// numbers to draw, and the whole piece.
import type { Document } from "../../api/client";
import { Choice } from "../../parts/Choice";
import type { Facts } from "../../time/piece";
import { BackingPanel } from "./BackingPanel";
import { DrawPanel } from "./DrawPanel";
import type { Laid } from "./layout";
import { OverPanel } from "./OverPanel";
import { PutPanel } from "./PutPanel";
import { SectionPanel } from "./SectionPanel";
import { useArrange } from "./store";
import { WholePanel } from "./WholePanel";

export function Side({ doc, facts, list }: { doc: Document; facts: Facts | undefined; list: Laid[] }) {
  const chosen = useArrange();
  const of = list.find((l) => l.section.id === chosen.section);
  return (
    <aside
      className="flex w-[272px] shrink-0 flex-col gap-2 overflow-y-auto border-l border-line bg-base-200 px-4 py-2.5"
      aria-label="Section, objects and the whole"
    >
      <div className="shrink-0">
        <Choice
          label="At the right"
          value={chosen.panel === "over" || chosen.panel === "backing" ? "section" : chosen.panel}
          options={[
            ["section", "Section"],
            ["put", "Put"],
            ["draw", "Draw"],
            ["whole", "Whole"],
          ]}
          onChange={(panel) => chosen.set({ panel, over: null })}
        />
      </div>
      {facts && of && chosen.panel === "section" && (
        <SectionPanel key={of.section.id} doc={doc} facts={facts} of={of} />
      )}
      {facts && chosen.panel === "over" && <OverPanel doc={doc} facts={facts} list={list} />}
      {facts && chosen.panel === "put" && <PutPanel doc={doc} facts={facts} />}
      {facts && of && chosen.panel === "draw" && <DrawPanel doc={doc} of={of} />}
      {facts && chosen.panel === "backing" && <BackingPanel doc={doc} facts={facts} />}
      {facts && chosen.panel === "whole" && <WholePanel doc={doc} facts={facts} />}
    </aside>
  );
}
