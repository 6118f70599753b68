// How a line follows what plays: it glides by itself, at the speed of late, and is set anew
// only when it would be wrong. Each setting makes the page draw a frame; the glide does not.

export interface Glide {
  /** Where the line was set, pixels, and when, ms. */
  x: number;
  since: number;
  /** Pixels a millisecond. */
  speed: number;
}

/** How far a line may stand from where it belongs, pixels. */
const slack = 1;
/** How long a line glides before it is set anew, ms. */
export const longest = 1000;
/** Over how long the speed is measured, ms. */
const window = 300;

/** Where a glide is. */
export const glidesTo = (g: Glide, now: number) => g.x + g.speed * (now - g.since);

/** Follows a line's places: reports a new glide when the one before no longer holds, else null. */
export class Gliding {
  private glide: Glide | null = null;
  private track: { x: number; at: number }[] = [];

  /** The line is at x now. */
  at(x: number, now: number): Glide | null {
    const { track, glide } = this;
    const last = track.at(-1);
    // It went round, or the view was scrolled: what was before says nothing.
    if (last && Math.abs(x - last.x) > 24) track.length = 0;
    track.push({ x, at: now });
    while (now - (track[0]?.at ?? now) > window) track.shift();
    const isRight = glide && now - glide.since < longest - 100 && Math.abs(glidesTo(glide, now) - x) <= slack;
    if (isRight) return null;
    const first = track[0];
    const speed = first && now - first.at > 60 ? (x - first.x) / (now - first.at) : 0;
    this.glide = { x, since: now, speed };
    return this.glide;
  }

  /** The line is out of sight. */
  stop() {
    this.glide = null;
    this.track.length = 0;
  }
}
