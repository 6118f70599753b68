// Facts of the core that the screen needs; made by `make generate`, not to be edited.

/** Ticks of a quarter note. */
export const ppq: number = 960;

/** The exponent of a curve's way at full bend. */
export const bendiness: number = 7;

/** The most strokes of a roll. */
export const maxStrokes: number = 128;

/** Length of the header of a block of sound, bytes; see docs/live.md. */
export const headerBytes: number = 48;

/** Frames of a block of sound. */
export const blockFrames: number = 256;

/** The most sound that is made ahead of what is played, frames, whole blocks. */
export const mostLead: number = 96256;

/** Meters on offer. */
export const meters: string[] = ["2/4","3/4","4/4","5/4","6/8","7/8","12/8"];

/** Scales by what follows the root of a key: semitones above it. */
export const scales: Record<string, number[]> = {"":[0,2,4,5,7,9,11],"dorian":[0,2,3,5,7,9,10],"lydian":[0,2,4,6,7,9,11],"m":[0,2,3,5,7,8,10],"major":[0,2,4,5,7,9,11],"minor":[0,2,3,5,7,8,10],"mixolydian":[0,2,4,5,7,9,10],"pentatonic":[0,3,5,7,10],"phrygian":[0,1,3,5,7,8,10]};

/** The family of each key of General MIDI's percussion map. */
export const percussion: Record<number, string> = {"35":"kick","36":"kick","37":"rim","38":"snare","39":"clap","40":"snare","41":"tom","42":"hat_closed","43":"tom","44":"hat_closed","45":"tom","46":"hat_open","47":"tom","48":"tom","49":"crash","50":"tom","51":"ride","52":"crash","53":"ride","54":"tambourine","55":"crash","56":"cowbell","57":"crash","58":"perc","59":"ride","60":"conga","61":"conga","62":"conga","63":"conga","64":"conga","65":"perc","66":"perc","67":"perc","68":"perc","69":"shaker","70":"shaker","71":"perc","72":"perc","73":"perc","74":"perc","75":"perc","76":"perc","77":"perc","78":"perc","79":"perc","80":"perc","81":"perc","82":"shaker"};
