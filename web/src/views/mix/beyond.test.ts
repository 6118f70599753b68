import { expect, test } from "vitest";
import { beyond } from "./beyond";

const cards = [0, 1, 2, 3, 4].map((i) => ({ from: i * 120, to: i * 120 + 112 }));

test("what lies beyond the edges is counted by its middle", () => {
  expect(beyond(cards, 0, 600)).toEqual({ left: 0, right: 0 });
  expect(beyond(cards, 0, 300)).toEqual({ left: 0, right: 2 });
  expect(beyond(cards, 130, 300)).toEqual({ left: 1, right: 1 });
  expect(beyond([], 0, 0)).toEqual({ left: 0, right: 0 });
});
