// What was recorded as a file, and what is said where nothing can be.

/** Why no microphone can be used, in a sentence. */
export function refusal(e: unknown): string {
  const name = (e as DOMException | null)?.name;
  if (name === "NotAllowedError")
    return "The browser does not let Jubrak use the microphone. Allow it beside the address, then try again; nothing was lost.";
  if (name === "NotFoundError" || name === "OverconstrainedError")
    return "No microphone was found. Plug one in, or add a file instead; nothing was lost.";
  return "The microphone could not be opened. Another program may be using it; nothing was lost.";
}

/** One channel of 32-bit floats as a WAV file. */
export function wav(blocks: Float32Array[], frames: number, rate: number): ArrayBuffer {
  const bytes = new ArrayBuffer(44 + 4 * frames);
  const v = new DataView(bytes);
  const text = (at: number, s: string) => {
    for (let i = 0; i < s.length; i++) v.setUint8(at + i, s.charCodeAt(i));
  };
  text(0, "RIFF");
  v.setUint32(4, 36 + 4 * frames, true);
  text(8, "WAVEfmt ");
  v.setUint32(16, 16, true);
  v.setUint16(20, 3, true); // floats
  v.setUint16(22, 1, true);
  v.setUint32(24, rate, true);
  v.setUint32(28, rate * 4, true);
  v.setUint16(32, 4, true);
  v.setUint16(34, 32, true);
  text(36, "data");
  v.setUint32(40, 4 * frames, true);
  let at = 44;
  for (const b of blocks)
    for (const x of b) {
      v.setFloat32(at, x, true);
      at += 4;
    }
  return bytes;
}
