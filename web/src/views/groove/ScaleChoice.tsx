const scales = [1, 2, 3, 5, 8, 10, 20];

/** How much the sticks exaggerate early and late; 0 is what fits. */
export function ScaleChoice({
  chosen,
  fitting,
  onChoose,
}: {
  chosen: number;
  fitting: number;
  onChoose: (scale: number) => void;
}) {
  return (
    <label
      className="flex items-center gap-1.5 text-sm"
      title="How much the sticks exaggerate early and late"
    >
      lean
      <select
        className="press num h-7 px-1.5"
        aria-label="stick tilt"
        value={chosen}
        onChange={(e) => onChoose(Number(e.target.value))}
      >
        <option value={0}>×{fitting} fits</option>
        {scales.map((s) => (
          <option key={s} value={s}>
            ×{s}
          </option>
        ))}
      </select>
    </label>
  );
}
