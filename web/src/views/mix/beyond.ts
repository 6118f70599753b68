/** How many of some things side by side have their middle beyond the left and right edge of what is in sight. */
export function beyond(things: { from: number; to: number }[], left: number, width: number) {
  const middles = things.map((t) => (t.from + t.to) / 2);
  return {
    left: middles.filter((m) => m < left).length,
    right: middles.filter((m) => m > left + width).length,
  };
}
