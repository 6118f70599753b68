// The field of a number that a table of the core describes: a number, one of
// some kinds, or a switch.
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

/** What an arrow key does, and how many digits two of its places differ in. */
function grainOf(p: Param): { step: number; digits?: number } {
  const span = p.max - p.min;
  if (span < 1) return { step: 0.005, digits: 3 };
  if (span <= 2) return { step: 0.01, digits: 2 };
  return { step: p.scale === "dB" || span <= 50 ? 0.5 : 1 };
}

export function ParamField({ param: p, value, at, percent, onChange, ...more }: Props) {
  const edit = useProject((s) => s.edit);
  const label = more.label ?? p.label;
  const hint = more.hint ?? p.hint ?? "";
  const set = (v: number, gesture: string) => {
    if (onChange) onChange(v, gesture);
    else edit([setNumber(`${at}/${p.id}`, v)], gesture);
  };
  if (p.names && p.names.length > 0)
    return (
      <label className="flex items-center gap-2 py-1 text-sm" title={hint}>
        <span className="grow truncate">{label}</span>
        <select
          className="press h-7 max-w-[150px] px-1.5 text-sm"
          aria-label={label}
          value={value}
          onChange={(e) => set(Number(e.target.value), "")}
        >
          {p.names.map((name, i) => (
            <option key={name} value={i}>
              {name}
            </option>
          ))}
        </select>
      </label>
    );
  if (p.scale === "switch")
    return (
      <label className="flex items-center gap-2 py-1 text-sm" title={hint}>
        <span className="grow truncate">{label}</span>
        <input
          type="checkbox"
          className="toggle toggle-xs"
          aria-label={label}
          checked={value === 1}
          onChange={(e) => set(e.target.checked ? 1 : 0, "")}
        />
      </label>
    );
  const by = percent ? 100 : 1;
  const whole = p.scale === "discrete";
  const grain = whole || percent ? { step: 1, digits: 0 } : grainOf(p);
  const digits = more.digits ?? grain.digits;
  return (
    <NumberField
      label={label}
      value={value * by}
      unit={percent ? "%" : p.unit}
      min={p.min * by}
      max={p.max * by}
      log={p.scale === "log"}
      step={more.step ?? grain.step}
      reset={(more.reset ?? p.default) * by}
      hint={hint}
      compact={more.compact ?? false}
      {...(digits !== undefined ? { digits } : {})}
      onChange={(v, gesture) => set((whole ? Math.round(v) : v) / by, gesture)}
    />
  );
}
