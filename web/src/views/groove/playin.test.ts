import { expect, test } from "vitest";
import type { Family, Voice } from "../../api/client";
import { voiceFor } from "./PlayIn";

const voice = (id: string, family: Family) => ({ id, family }) as Voice;
const voices = [voice("kick", "kick"), voice("low", "tom"), voice("high", "tom"), voice("snare", "snare")];
const keys = new Map([
  [36, "kick"],
  [43, "low"],
  [48, "high"],
  [38, "snare"],
]);
const relations = (f: Family): Family[] => (f === "clap" ? ["snare"] : []);

test("a stroke plays the voice that has its key, else its family, else what stands in", () => {
  const at = (key: number, family: Family) =>
    voiceFor({ family, velocity: 100, at: 0, key }, voices, keys, relations)?.id;
  expect(at(48, "tom")).toBe("high");
  expect(at(43, "tom")).toBe("low");
  expect(at(50, "tom")).toBe("low");
  expect(at(39, "clap")).toBe("snare");
  expect(at(49, "crash")).toBeUndefined();
  expect(voiceFor({ family: "kick", velocity: 100, at: 0 }, voices, keys, relations)?.id).toBe("kick");
});
