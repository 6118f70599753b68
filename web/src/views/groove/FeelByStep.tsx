// Timing and velocity by step, beside the reference's.
import { useMemo, useState } from "react";
import type { Analysis, State } from "../../api/client";
import { OffsetPlot } from "../../parts/OffsetPlot";
import { barSteps, heardDots, myDots, sameDots } from "./layout";

export function FeelByStep(p: { state: State; analysis: Analysis | undefined; width: number }) {
  const mine = myDots(p.state);
  const [filled, setFilled] = useState(mine);
  if (!sameDots(mine, filled)) setFilled(mine); // else the plot is not drawn again
  const hollow = useMemo(() => heardDots(p.analysis), [p.analysis]);
  return (
    <OffsetPlot
      filled={filled}
      hollow={hollow}
      steps={barSteps(p.state.document)}
      width={p.width}
      height={190}
    />
  );
}
