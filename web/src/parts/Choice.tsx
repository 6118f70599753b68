// One of a few, as a row of buttons.
export function Choice<T extends string | number>(p: {
  label: string;
  value: T;
  options: readonly (readonly [T, string, string?])[];
  onChange: (v: T) => void;
  disabled?: (v: T) => boolean;
}) {
  return (
    <fieldset className="inline-flex overflow-hidden rounded-lg border border-line" aria-label={p.label}>
      {p.options.map(([v, text, hint]) => (
        <button
          key={v}
          type="button"
          title={hint}
          aria-pressed={v === p.value}
          disabled={p.disabled?.(v) ?? false}
          onClick={() => p.onChange(v)}
          className={`h-[30px] cursor-pointer px-3 text-sm font-medium disabled:cursor-default disabled:opacity-45 ${
            v === p.value ? "bg-neutral text-neutral-content" : "bg-base-100 hover:bg-base-300"
          }`}
        >
          {text}
        </button>
      ))}
    </fieldset>
  );
}
