import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { Edit, State } from "../api/client";
import { useProject } from "./project";
import { parse } from "./route";

const calls: { url: string; body: { base: number; edits: Edit[]; coalesce: string } }[] = [];
let version = 1;
let answer: (url: string) => Response;

const state = (v: number, name = "Lap", references: string[] = []) =>
  ({
    id: "p",
    version: v,
    notes: [],
    document: {
      name,
      active_reference: references.at(-1) ?? "",
      references: references.map((id) => ({ id })),
    },
  }) as unknown as State;
const keyOf = (e: Edit | undefined) => (e?.op === "project.key" ? e.key : undefined);
const answered = (s: State) => new Response(JSON.stringify(s), { status: 200 });
const edited = (v: number, patch: unknown[] = []) =>
  new Response(JSON.stringify({ version: v, notes: [], patch }), { status: 200 });
const ok = (v: number) => edited(v);
const conflict = () =>
  new Response(JSON.stringify({ error: { code: "version_conflict", message: "changed elsewhere" } }), {
    status: 409,
  });

beforeEach(() => {
  calls.length = 0;
  version = 1;
  answer = () => ok(++version);
  vi.stubGlobal("fetch", async (url: string, init?: RequestInit) => {
    if (init?.body) calls.push({ url, body: JSON.parse(String(init.body)) });
    await new Promise((done) => setTimeout(done, 5));
    return answer(url);
  });
  useProject.setState({ state: state(1), saving: false, notice: null });
});

afterEach(() => vi.unstubAllGlobals());

// Waits for the answers themselves, not for a time: a busy machine may take long.
const settle = () => useProject.getState().answered();

test("edits go one after another, each from the version before", async () => {
  const { edit } = useProject.getState();
  edit([{ op: "project.key", key: "a" }]);
  edit([{ op: "project.key", key: "b" }]);
  edit([{ op: "project.key", key: "c" }]);
  await settle();
  expect(calls.map((c) => c.body.base)).toEqual([1, 2, 3]);
  expect(calls.map((c) => keyOf(c.body.edits[0]))).toEqual(["a", "b", "c"]);
});

test("a drag that outruns the server skips what it set in between", async () => {
  const { edit } = useProject.getState();
  for (let i = 1; i <= 50; i++) edit([{ op: "number.set", at: "groove/feel/swing_percent", value: i }], "g1");
  await settle();
  expect(calls.length).toBeLessThan(5);
  expect(calls.at(-1)?.body.edits[0]).toMatchObject({ value: 50 });
});

test("edits that add up are never skipped", async () => {
  const { edit } = useProject.getState();
  for (let i = 0; i < 5; i++) edit([{ op: "hit.by", hits: [], number: "nudge_ms", by: 1 }], "g2");
  await settle();
  expect(calls.length).toBe(5);
});

test("undo pressed faster than it is answered goes back as many changes", async () => {
  const { undo } = useProject.getState();
  await Promise.all([undo(), undo(), undo()]);
  expect(calls.map((c) => c.body.base)).toEqual([1, 2, 3]);
  expect(useProject.getState().notice).toBeNull();
});

test("an edit made while an undo is answered is made on top of it", async () => {
  const { undo, edit, answered: all } = useProject.getState();
  void undo();
  edit([{ op: "project.key", key: "a" }]);
  await all();
  expect(calls.map((c) => c.body.base)).toEqual([1, 2]);
});

test("a refusal is shown and the server's state comes back", async () => {
  answer = (url) => (url.endsWith("/edits") ? conflict() : answered(state(9, "renamed elsewhere")));
  const { edit } = useProject.getState();
  edit([{ op: "project.key", key: "a" }]);
  edit([
    { op: "project.key", key: "b" },
    { op: "project.key", key: "c" },
  ]);
  await settle();
  expect(useProject.getState().notice?.text).toBe("changed elsewhere");
  expect(useProject.getState().state?.version).toBe(9);
  // All three are kept and can be made on what the other window made.
  answer = (url) => (url.endsWith("/edits") ? edited(10) : answered(state(9, "renamed elsewhere")));
  const before = calls.length;
  useProject.getState().notice?.action?.run();
  await settle();
  const again = calls.slice(before).filter((c) => c.body?.edits);
  expect(again.flatMap((c) => c.body.edits.map(keyOf))).toEqual(["a", "b", "c"]);
});

test("edits that wait while a reference comes in are made on top of it", async () => {
  version = 4; // the reference came in three versions later
  answer = (url) => {
    if (!url.endsWith("/edits")) return answered(state(4, "Lap", ["r"]));
    return calls.at(-1)?.body.base === version ? edited(++version) : conflict();
  };
  const { edit } = useProject.getState();
  edit([{ op: "project.key", key: "a" }]);
  edit([{ op: "project.key", key: "b" }]);
  await settle();
  expect(calls.map((c) => [keyOf(c.body.edits[0]), c.body.base])).toEqual([
    ["a", 1],
    ["a", 4],
    ["b", 5],
  ]);
  expect(useProject.getState().notice).toBeNull();
  expect(useProject.getState().state?.version).toBe(6);
});

test("an answer that does not fit is mended by reading the project anew", async () => {
  answer = (url) =>
    url.endsWith("/edits")
      ? edited(2, [{ op: "replace", path: "/document/groove/lanes/0/steps", value: 7 }])
      : answered(state(2, "as it is there"));
  useProject.getState().edit([{ op: "project.key", key: "a" }]);
  await settle();
  expect(useProject.getState().state?.document.name).toBe("as it is there");
  expect(useProject.getState().notice).toBeNull();
});

test("places", () => {
  expect(parse("/")).toEqual({ project: null, view: "groove" });
  expect(parse("/p/abc/compare")).toEqual({ project: "abc", view: "compare" });
  expect(parse("/p/abc/nonsense")).toEqual({ project: "abc", view: "groove" });
});

test("an answer that comes after another project was opened goes to the project that was asked", async () => {
  const { edit, open } = useProject.getState();
  let release = () => {};
  const slow = new Promise<void>((done) => {
    release = done;
  });
  const other = { ...state(7, "Other"), id: "q" };
  vi.stubGlobal("fetch", async (url: string, init?: RequestInit) => {
    if (init?.body) calls.push({ url, body: JSON.parse(String(init.body)) });
    if (url.includes("/p/edits") && calls.filter((c) => c.url.includes("/p/")).length === 1) await slow;
    if (url.endsWith("/q")) return answered(other);
    if (url.includes("/q/")) return edited(8);
    return edited(++version);
  });
  edit([{ op: "project.key", key: "a" }]);
  edit([{ op: "project.key", key: "b" }]);
  useProject.getState().close();
  await open("q");
  expect(useProject.getState().state?.id).toBe("q");
  edit([{ op: "project.key", key: "c" }]);
  await useProject.getState().answered();
  release();
  await vi.waitFor(() => expect(calls.length).toBe(3));
  await new Promise((done) => setTimeout(done, 20));
  expect(useProject.getState().state?.id, "what was asked of p shows nowhere else").toBe("q");
  expect(useProject.getState().state?.version).toBe(8);
  const to = (id: string) =>
    calls.filter((c) => c.url.includes(`/${id}/edits`)).map((c) => [c.body.base, keyOf(c.body.edits[0])]);
  expect(to("p"), "nothing is lost on the way").toEqual([
    [1, "a"],
    [2, "b"],
  ]);
  expect(to("q")).toEqual([[7, "c"]]);
});

test("of two projects asked for, the later one is shown, whichever answers first", async () => {
  const { open } = useProject.getState();
  let release = () => {};
  const slow = new Promise<void>((done) => {
    release = done;
  });
  vi.stubGlobal("fetch", async (url: string) => {
    if (url.endsWith("/x")) await slow;
    return answered({ ...state(1), id: url.endsWith("/x") ? "x" : "y" });
  });
  const first = open("x");
  await open("y");
  release();
  await first;
  expect(useProject.getState().state?.id).toBe("y");
});
