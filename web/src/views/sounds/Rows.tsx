// The parameters of a table as fields.
import type { Info } from "../../api/client";
import { ParamField } from "../../parts/ParamField";
import { valueIn } from "../../state/numbers";

/** The numbers of a table, one under the other. */
export function Rows({
  rows,
  at,
  of,
  hints = {},
}: {
  rows: Info["tables"]["layer"];
  at: string;
  of: object;
  hints?: Record<string, string>;
}) {
  return (
    <>
      {rows.map((p) => (
        <ParamField
          key={p.id}
          param={p}
          at={at}
          value={valueIn(of, p.id)}
          hint={hints[p.id] ?? ""}
          percent={p.id === "pan"}
          {...(p.unit === "Hz" || p.id.endsWith("decay_ms") ? { digits: 0 } : {})}
          step={p.scale === "dB" ? 0.5 : 1}
        />
      ))}
    </>
  );
}
