// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { beforeEach, expect, test, vi } from "vitest";
import type { State } from "../../api/client";
import { monitor } from "../../live/monitor";
import { headY } from "../../parts/sticks";
import { useSelection } from "../../state/selection";
import { projectOf, serve, show } from "../../test/harness";
import { LaneRow } from "./LaneRow";
import { grooveAxis, rowHeight } from "./layout";

beforeEach(() => {
  serve({});
  vi.spyOn(monitor, "strike").mockResolvedValue();
  HTMLCanvasElement.prototype.getContext = () => null;
  Element.prototype.setPointerCapture = () => {};
  Element.prototype.releasePointerCapture = () => {};
  Element.prototype.hasPointerCapture = () => false;
  useSelection.getState().set({ voice: "kick", tick: 0, hits: [], tool: "draw", snap: 0, moved: 0 });
});

/** The lane of the kick, and its first hit with where its head is. */
function lane(state: State = projectOf()) {
  const doc = state.document;
  const at = doc.groove.lanes.findIndex((l) => l.voice === "kick");
  const axis = grooveAxis(doc, { from: 0, to: 3840 }, 800);
  const boxes: unknown[] = [];
  const revealed: number[] = [];
  const voice = doc.kit.voices.find((v) => v.id === "kick");
  const hits = doc.groove.lanes[at]?.hits ?? [];
  if (!voice || !hits[0]) throw new Error("no kick");
  const drawn = show(
    <LaneRow
      hits={hits}
      falls={state.falls[at] ?? []}
      voice={voice}
      lean={0}
      beats={4}
      axis={axis}
      scale={1}
      shadows={[]}
      lasts={axis.total}
      grid={0}
      families={{}}
      differs={undefined}
      onReveal={(tick) => revealed.push(tick)}
      onBox={(b) => boxes.push(b)}
    />,
    state,
  );
  const canvas = screen.getByRole("group").querySelector("canvas");
  if (!canvas) throw new Error("no canvas");
  const hit = hits[0];
  return {
    ...drawn,
    canvas,
    axis,
    hit,
    boxes,
    revealed,
    x: axis.x(hit.tick),
    y: headY(hit.velocity, rowHeight),
  };
}

const down = (el: Element, x: number, y: number, more = {}) =>
  fireEvent.pointerDown(el, { clientX: x, clientY: y, button: 0, buttons: 1, pointerId: 1, ...more });
const move = (el: Element, x: number, y: number, more = {}) =>
  fireEvent.pointerMove(el, { clientX: x, clientY: y, buttons: 1, pointerId: 1, ...more });
const up = (el: Element, x: number, y: number) =>
  fireEvent.pointerUp(el, { clientX: x, clientY: y, button: 0, pointerId: 1 });

test("a click on an empty step places a hit there, as loud as it is high, and plays it", () => {
  const l = lane();
  const free = 240; // the second sixteenth
  down(l.canvas, l.axis.x(free), headY(80, rowHeight));
  up(l.canvas, l.axis.x(free), headY(80, rowHeight));
  expect(l.edits).toEqual([[{ op: "hit.add", voice: "kick", tick: free, velocity: 80 }]]);
  expect(monitor.strike).toHaveBeenCalledWith("kick", 80);
});

test("a hit that is dragged along is moved by steps when it is let go, and not when that is cancelled", () => {
  const l = lane();
  const step = 240 * l.axis.per;
  down(l.canvas, l.x, l.y);
  move(l.canvas, l.x + 2 * step, l.y);
  expect(useSelection.getState().moved).toBe(480);
  expect(l.edits, "nothing yet").toEqual([]);
  up(l.canvas, l.x + 2 * step, l.y);
  expect(l.edits).toEqual([[{ op: "hit.move", hits: [{ voice: "kick", hit: l.hit.id }], ticks: 480 }]]);
  down(l.canvas, l.x, l.y);
  move(l.canvas, l.x + 2 * step, l.y);
  fireEvent.keyDown(window, { key: "Escape" });
  expect(l.edits).toHaveLength(1);
  expect(useSelection.getState().moved).toBe(0);
});

test("dragged down it gets softer, with Alt along it is nudged; Escape brings back what was there", async () => {
  const l = lane();
  await new Promise((done) => setTimeout(done)); // the ranges of numbers have come
  down(l.canvas, l.x, l.y);
  move(l.canvas, l.x, l.y + 12);
  const last = () => (l.edits.at(-1) ?? [])[0] as { number: string; value: number };
  const softer = last();
  expect(softer.number).toBe("velocity");
  expect(softer.value).toBeLessThan(l.hit.velocity);
  fireEvent.keyDown(window, { key: "Escape" });
  expect(last().value).toBe(l.hit.velocity);
  down(l.canvas, l.x, l.y);
  move(l.canvas, l.x + 9, l.y, { altKey: true });
  const nudged = last();
  expect(nudged.number).toBe("nudge_ms");
  expect(nudged.value).toBeGreaterThan(0);
  up(l.canvas, l.x + 9, l.y);
});

test("with the tool that selects a box is drawn, and what is in it is selected", () => {
  useSelection.getState().set({ tool: "select" });
  const l = lane();
  down(l.canvas, l.x + 30, 2);
  move(l.canvas, l.x - 20, rowHeight);
  expect(l.boxes.at(-1)).toMatchObject({ left: l.x - 20, right: l.x + 30 });
  up(l.canvas, l.x - 20, rowHeight);
  expect(l.boxes.at(-1), "the box is gone").toBeNull();
  expect(l.edits).toEqual([]);
});

test("Home and End put the cursor on the first and the last step, in sight", async () => {
  const l = lane();
  const row = screen.getByRole("group");
  row.focus();
  await l.user.keyboard("{End}");
  await waitFor(() => expect(useSelection.getState().tick).toBe(l.axis.total - 240));
  await l.user.keyboard("{Home}");
  await waitFor(() => expect(useSelection.getState().tick).toBe(0));
  await l.user.keyboard("{ArrowLeft}"); // round
  await waitFor(() => expect(useSelection.getState().tick).toBe(l.axis.total - 240));
  expect(l.revealed).toEqual([l.axis.total - 240, 0, l.axis.total - 240]);
});
