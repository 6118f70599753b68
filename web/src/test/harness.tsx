// What tests of components share: a project as the server gives it, and a server that is
// a table of answers.
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { cleanup, render } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import type { ReactNode } from "react";
import { afterEach, vi } from "vitest";
import type { Comparison, Document, Edit, Info, State } from "../api/client";
import { useProject } from "../state/project";
import { useSelection } from "../state/selection";
import comparisonSample from "./comparison.json";
import infoSample from "./info.gen.json";
import stateSample from "./state.json";

export const info = infoSample as unknown as Info;
export const comparison = comparisonSample as unknown as Comparison;
const sample = stateSample as unknown as State;

/** A project of the rink, with parts of its document changed. */
export const projectOf = (more: Partial<Document> = {}, of: Partial<State> = {}): State => ({
  ...sample,
  ...of,
  document: { ...sample.document, ...more },
});

interface Call {
  method: string;
  path: string;
  body: unknown;
}

/** Answers by "METHOD path"; a function gets the call, what is not there is refused. */
type Answers = Record<string, unknown | ((call: Call) => unknown)>;

/** Refuses as the server does, when it is an answer. */
export class Refusal {
  constructor(
    readonly status: number,
    readonly message: string,
  ) {}
}

/** Puts the table in place of the server; returns the list of what is asked. */
export function serve(answers: Answers): Call[] {
  const calls: Call[] = [];
  vi.stubGlobal("fetch", async (path: string, init: RequestInit = {}) => {
    const call = {
      method: init.method ?? "GET",
      path,
      body: typeof init.body === "string" ? JSON.parse(init.body) : null,
    };
    calls.push(call);
    const table: Answers = { "GET /api/info": info, ...answers };
    const found = table[`${call.method} ${path.split("?")[0]}`];
    const answer = await (typeof found === "function" ? found(call) : found);
    if (answer instanceof Refusal)
      return Response.json(
        { error: { code: "refused", message: answer.message } },
        { status: answer.status },
      );
    if (answer === undefined)
      return Response.json(
        { error: { code: "not_found", message: `no answer for ${call.method} ${path}` } },
        { status: 404 },
      );
    return Response.json(answer);
  });
  return calls;
}

/** Draws a component for a project; edits are listed, not sent. */
export function show(node: ReactNode, state: State | null = null) {
  const edits: Edit[][] = [];
  useProject.setState({ state, notice: null, edit: (list) => edits.push(list) });
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  const drawn = render(<QueryClientProvider client={client}>{node}</QueryClientProvider>);
  return { ...drawn, edits, user: userEvent.setup() };
}

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  useProject.setState({ state: null, notice: null });
  useSelection.getState().set({ hits: [] });
});
