// What is between the server's blocks and the ear: a ring of frames by their place since the
// connection opened. A block whose place was filled before takes the place of what is not
// played yet.
import { blockFrames, mostLead } from "../api/facts.gen";
import type { Block } from "./wire";

const ring = 2 * mostLead; // frames

/** Over how many frames what was made anew comes in. */
export const fade = 240; // 5 ms

/** What came with the block that lies at a place. */
interface Mark {
  block: Block;
  turn: number;
}

export class Buffer {
  private left = new Float32Array(ring);
  private right = new Float32Array(ring);
  /** The frame behind the last one. */
  wrote = 0;
  /** The next to be played. */
  read = 0;
  /** The frame behind the last block that came. */
  private came = 0;
  /** Frames of what was made anew that came when they had been played already. */
  late = 0;
  /** How often it was gone back, as far as that has been played. */
  turn = 0;
  private turns = 0; // that came; the first block of each only leads over
  private fadeFrom = -fade;
  private fadeTo = 0; // where what was there before ends
  /** By place, a block each, until it is played. */
  private marks: (Mark | undefined)[] = new Array(ring / blockFrames);
  private marked = 0; // the place of the next block to be played

  reset() {
    this.wrote = 0;
    this.read = 0;
    this.came = 0;
    this.fadeFrom = -fade;
    this.fadeTo = 0;
    this.marks.fill(undefined);
    this.marked = 0;
  }

  take(b: Block) {
    const back = b.at !== this.came && b.at < this.wrote;
    if (back) {
      // It was gone back to there: from here on all is another version.
      this.fadeFrom = Math.max(b.at, this.read);
      this.fadeTo = this.wrote;
      this.turns++;
    }
    this.came = b.at + b.frames;
    const skip = Math.min(Math.max(this.read - b.at, 0), b.frames);
    this.late += skip;
    for (let i = skip; i < b.frames; i++) {
      const frame = b.at + i;
      const at = frame % ring;
      const into = (frame - this.fadeFrom + 0.5) / fade;
      let l = b.left[i] as number;
      let r = b.right[i] as number;
      if (into < 1 && frame < this.fadeTo) {
        // Equal gain: what comes and what goes are the same up to where it was changed.
        const come = Math.sin((into * Math.PI) / 2) ** 2;
        l = l * come + (this.left[at] as number) * (1 - come);
        r = r * come + (this.right[at] as number) * (1 - come);
      }
      this.left[at] = l;
      this.right[at] = r;
    }
    if (skip < b.frames) {
      this.marked = Math.min(this.marked, b.at); // its beginning may have been played
      this.marks[this.slot(b.at)] = { block: b, turn: back ? this.turns - 1 : this.turns };
    }
    this.wrote = Math.max(this.wrote, this.came);
  }

  /** Fills what is played next; returns how many frames there were. */
  give(left: Float32Array, right: Float32Array): number {
    const ready = Math.min(this.wrote - this.read, left.length);
    for (let i = 0; i < ready; i++) {
      const at = (this.read + i) % ring;
      left[i] = this.left[at] as number;
      right[i] = this.right[at] as number;
    }
    this.read += ready;
    return ready;
  }

  /** The blocks whose first frame has been played since it was last asked. */
  begun(): Block[] {
    const out: Block[] = [];
    for (; this.marked < this.read; this.marked += blockFrames) {
      const at = this.slot(this.marked);
      const mark = this.marks[at];
      if (!mark) continue; // it came when it had been played
      this.marks[at] = undefined;
      this.turn = Math.max(this.turn, mark.turn);
      out.push(mark.block);
    }
    return out;
  }

  private slot(at: number) {
    return (at / blockFrames) % this.marks.length;
  }
}
