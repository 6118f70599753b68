import { expect, test } from "vitest";
import type { Row } from "../../api/client";
import { type Column, differenceText, digitsOf, severity, spoken, unitOf, withUnit } from "./cells";

const column = (part: Partial<Column>): Column => ({
  id: "lean",
  label: "Lean",
  unit: "ms",
  group: "feel",
  whole: false,
  bus: false,
  digits: 1,
  source: "common practice",
  hint: "",
  ...part,
});

const row = (part: Partial<Row>): Row =>
  ({
    id: "lean.snare",
    column: "lean",
    difference: 12,
    tolerance: 6,
    within: 2,
    inside: false,
    why: "",
    ...part,
  }) as Row;

test("severity counts tolerance and what the reference may be wrong by; inside is none", () => {
  expect(severity(row({}))).toBe(1.5);
  expect(severity(row({ inside: true }))).toBe(0);
  expect(severity(row({ inside: null, difference: null }))).toBe(0);
  expect(severity(row({ difference: 2, tolerance: 0, within: 0 }))).toBe(4);
});

test("differences have a sign, counts of hits have none", () => {
  expect(differenceText(row({}), column({}))).toBe("+12.0");
  expect(differenceText(row({ difference: -3 }), column({}))).toBe("−3.0");
  expect(differenceText(row({ difference: 4 }), column({ id: "hits", digits: 0 }))).toBe("4");
  expect(differenceText(row({ difference: null }), column({}))).toBe("–");
  expect(differenceText(row({ difference: 21717 }), column({ digits: 0 }))).toBe("+999");
  expect(withUnit(-9, column({}))).toBe("−9.0 ms");
});

test("values have units of their own where differences are relative", () => {
  expect(unitOf(column({ id: "decay", unit: "%" }))).toBe("ms");
  expect(unitOf(column({}))).toBe("ms");
  expect(digitsOf(column({ id: "fundamental", unit: "ct", digits: 0 }))).toBe(1);
});

test("a cell says what it shows", () => {
  expect(spoken(row({}), column({}))).toBe("Lean: +12.0 ms, outside");
  expect(spoken(row({ difference: null, inside: null, why: "no hits of mine" }), column({}))).toBe(
    "Lean: cannot be measured, no hits of mine",
  );
});
