// How a line follows what plays: it glides by itself, at the speed of late, and is set anew
// only when it would be wrong. Each setting makes the page draw a frame; the glide does not.

export interface Glide {
  /** Where the line was set, pixels, and when, ms. */
  x: number;
  since: number;
  /** Pixels a millisecond. */
  speed: number;
}

/** How far a line may stand from where it belongs: pixels, or what it moves in so many ms. */
const slack = { pixels: 1, ms: 4 };
/** What is further from where the line was to be is another place: pixels, or so many ms of the way. */
const leap = { pixels: 24, ms: 30 };
/** How long a line glides before it is set anew, ms. */
export const longest = 1000;
/** Over how long the speed is measured, ms, and how long that takes at least. */
const window = 600;
const least = 60;

/** Where a glide is. */
export const glidesTo = (g: Glide, now: number) => g.x + g.speed * (now - g.since);

/** The straight line nearest to places (least squares), as a glide from the last of them. */
function through(track: readonly { x: number; at: number }[], now: number): Glide {
  const n = track.length;
  const at = track.reduce((sum, p) => sum + p.at, 0) / n;
  const x = track.reduce((sum, p) => sum + p.x, 0) / n;
  const squares = track.reduce((sum, p) => sum + (p.at - at) ** 2, 0);
  const speed = track.reduce((sum, p) => sum + (p.at - at) * (p.x - x), 0) / squares;
  return { x: x + speed * (now - at), since: now, speed };
}

/** Follows a line's places: reports a new glide when the one before no longer holds, else null. */
export class Gliding {
  private glide: Glide | null = null;
  private track: { x: number; at: number }[] = [];

  /** The line is at x, or near it, as blocks are reported one or several at a time. */
  at(x: number, now: number): Glide | null {
    const { track } = this;
    const last = track.at(-1);
    if (last && now <= last.at) return null;
    // It went round: what was before says nothing.
    const speed = this.glide?.speed ?? 0;
    if (
      last &&
      Math.abs(x - last.x - speed * (now - last.at)) > Math.max(leap.pixels, leap.ms * Math.abs(speed))
    )
      track.length = 0;
    track.push({ x, at: now });
    while (now - (track[0]?.at ?? now) > window) track.shift();
    const next = now - (track[0]?.at ?? now) > least ? through(track, now) : { x, since: now, speed: 0 };
    if (this.glide && now - this.glide.since < longest - 100) {
      const off = Math.abs(glidesTo(this.glide, now) - next.x);
      if (off <= Math.max(slack.pixels, slack.ms * Math.abs(next.speed))) return null;
    }
    this.glide = next;
    return next;
  }

  /** The view was scrolled or zoomed by so many pixels where the line is: it is set there at once. */
  shift(by: number) {
    for (const p of this.track) p.x += by;
    this.glide = null;
  }

  /** The line is out of sight. */
  stop() {
    this.glide = null;
    this.track.length = 0;
  }
}
