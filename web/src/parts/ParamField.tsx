// The field of a number that a table of the core describes.
import type { Param } from "../api/client";
import { setNumber } from "../state/numbers";
import { useProject } from "../state/project";
import { NumberField } from "./NumberField";

interface Props {
  param: Param;
  value: number;
  /** The address of what has the number. */
  at: string;
  label?: string;
  hint?: string;
  digits?: number;
  step?: number;
  reset?: number;
  compact?: boolean;
  /** Shown in percent of what it is. */
  percent?: boolean;
  /** In place of setting the number. */
  onChange?: (value: number, gesture: string) => void;
}

const stepOf = (p: Param) => (p.scale === "dB" || p.max - p.min <= 50 ? 0.5 : 1);

export function ParamField({ param: p, value, at, percent, onChange, ...more }: Props) {
  const edit = useProject((s) => s.edit);
  const by = percent ? 100 : 1;
  const whole = p.scale === "steps";
  return (
    <NumberField
      label={more.label ?? p.label}
      value={value * by}
      unit={percent ? "%" : p.unit}
      min={p.min * by}
      max={p.max * by}
      log={p.scale === "log"}
      step={more.step ?? (whole || percent ? 1 : stepOf(p))}
      reset={(more.reset ?? p.default) * by}
      hint={more.hint ?? ""}
      compact={more.compact ?? false}
      {...(more.digits !== undefined || whole || percent ? { digits: more.digits ?? 0 } : {})}
      onChange={(v, gesture) => {
        const next = (whole ? Math.round(v) : v) / by;
        if (onChange) onChange(next, gesture);
        else edit([setNumber(`${at}/${p.id}`, next)], gesture);
      }}
    />
  );
}
