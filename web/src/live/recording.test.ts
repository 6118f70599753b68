import { expect, test } from "vitest";
import { refusal, wav } from "./recording";

// Published: RIFF/WAVE (1991, 1994): the header of a file of floats.
test("what was recorded is a WAV file of floats", () => {
  const bytes = wav([new Float32Array([0.5, -0.25]), new Float32Array([1])], 3, 48000);
  const v = new DataView(bytes);
  expect(bytes.byteLength).toBe(44 + 12);
  expect(String.fromCharCode(...new Uint8Array(bytes, 0, 4), ...new Uint8Array(bytes, 8, 8))).toBe(
    "RIFFWAVEfmt ",
  );
  expect([v.getUint16(20, true), v.getUint32(24, true), v.getUint16(34, true)]).toEqual([3, 48000, 32]);
  expect([44, 48, 52].map((at) => v.getFloat32(at, true))).toEqual([0.5, -0.25, 1]);
});

test("a microphone that is refused or absent is reported, each in its own words", () => {
  expect(refusal(new DOMException("", "NotAllowedError"))).toContain("Allow it");
  expect(refusal(new DOMException("", "NotFoundError"))).toContain("No microphone");
  expect(refusal(new Error())).toContain("could not be opened");
});
