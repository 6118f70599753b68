// @vitest-environment jsdom
import { act, screen, waitFor } from "@testing-library/react";
import { expect, test } from "vitest";
import { projectOf, serve, show } from "../test/harness";
import { useProject } from "./project";
import { changesOf, useAnalysis } from "./queries";

const Tempo = () => <p>{useAnalysis().data?.tempo_bpm ?? "…"} BPM</p>;

test("what an undo brings back is asked for anew: the first answer may be of the change", async () => {
  const reference = { id: "r1", kind: "audio", name: "Rink take", corrections: [] };
  const of = (corrections: object[]) =>
    projectOf({ references: [{ ...reference, corrections }] as never, active_reference: "r1" });
  const before = of([]);
  const answers: ((tempo_bpm: number) => void)[] = [];
  const asked = serve({
    [`GET /api/projects/${before.id}/references/r1`]: () =>
      new Promise((done) => answers.push((tempo_bpm) => done({ tempo_bpm }))),
  });
  const answer = async (nth: number, tempo: number) => {
    await waitFor(() => expect(answers).toHaveLength(nth));
    await act(async () => answers[nth - 1]?.(tempo));
    expect(await screen.findByText(`${tempo} BPM`)).toBeTruthy();
  };
  show(<Tempo />, before);
  await answer(1, 61); // the server has the change already
  act(() => useProject.setState({ state: of([{ kind: "tempo", value: 61 }]) }));
  await answer(2, 61);
  act(() => useProject.setState({ state: of([]) }));
  await answer(3, 92);
  expect(asked.filter((c) => c.path.includes("/references/"))).toHaveLength(3);
});

test("what stays the same is not asked for again, whichever object it is", () => {
  const first = changesOf("a row", { hits: [1, 2] });
  expect(changesOf("a row", { hits: [1, 2] })).toBe(first);
  expect(changesOf("a row", { hits: [1] })).toBe(first + 1);
  expect(changesOf("a row", { hits: [1, 2] })).toBe(first + 2);
  expect(changesOf("another row", undefined)).toBe(1);
});
