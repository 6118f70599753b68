/** A line of a panel: what it is, and its control. */
export function Line({ label, children, hint }: { label: string; children: React.ReactNode; hint?: string }) {
  return (
    <div className="flex min-h-[30px] items-center gap-2 text-sm" title={hint}>
      <span className="w-[84px] shrink-0 text-muted">{label}</span>
      <div className="flex min-w-0 grow items-center gap-1.5">{children}</div>
    </div>
  );
}
