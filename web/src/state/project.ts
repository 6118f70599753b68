// The open project: the server's newest state, and edits on their way to it.
import { create } from "zustand";
import { ApiError, api, type Edit, type Schemas, type State } from "../api/client";
import { changed } from "./changed";

interface Pending {
  edits: Edit[];
  coalesce: string;
}

interface ProjectStore {
  state: State | null;
  /** True while an edit has not been confirmed by the server. */
  saving: boolean;
  /** What just happened; perhaps with something to be done about it. */
  notice: { text: string; kind: "error" | "info"; action?: { text: string; run: () => void } } | null;
  open: (id: string) => Promise<void>;
  /** Takes up what something else has changed; edits that wait are kept. */
  refresh: () => Promise<void>;
  close: () => void;
  /** Applies edits; those of one gesture share a coalesce name and are one change to undo. */
  edit: (edits: Edit[], coalesce?: string) => void;
  /** Resolves when the server has answered every edit so far. */
  answered: () => Promise<void>;
  /** Takes a profile of the library as reference. */
  useProfile: (profile: string) => Promise<void>;
  /** Takes a recording of another project as reference. */
  useRecording: (from: { project: string; reference: string }) => Promise<void>;
  /** Strikes a slice of a reference, or a recorded one-shot, with a voice. */
  addLayer: (voice: string, from: { reference: string; slice: Schemas["Slice"] } | File) => Promise<void>;
  /** Makes a drum of a reference the sound of a voice, as samples. */
  takeDrum: (reference: string, voice: string, drum: Schemas["DrumOf"]) => Promise<void>;
  /** Trims a recorded layer and brings it to a level. */
  tidyLayer: (voice: string, layer: string) => Promise<void>;
  /** Makes what a fit has found the voice's sound, one change with the tries before it. */
  takeFit: (voice: string, job: string, attack: boolean, gesture: string) => Promise<void>;
  /** Cuts a recorded loop into hits, a new voice for each family, and places them if asked. */
  sliceLayer: (voice: string, layer: string, place: Schemas["Placing"]) => Promise<void>;
  /** Brings a row of the mix back as a sound of its own, or as hits. */
  bounceRow: (ask: Omit<Schemas["BounceRow"], "base">) => Promise<void>;
  /** Brings a stretch of the arrangement back as a sample, slices or a backing. */
  bouncePiece: (ask: Omit<Schemas["PieceBounce"], "base">) => Promise<void>;
  /** Takes a mix, a bus or a row from another project. */
  /** Gives an effect of a row a recording, such as an impulse response. */
  effectRecording: (row: string, effect: string, file: File) => Promise<void>;
  takeMix: (from: string, what: string) => Promise<void>;
  /** Lets a layer begin with the start of another voice's sound. */
  borrowAttack: (voice: string, layer: string, from: string) => Promise<void>;
  /** Takes what was tapped as reference. */
  addTake: (take: Schemas["Take"]) => Promise<void>;
  undo: () => Promise<void>;
  redo: () => Promise<void>;
  /** Goes to a change of the history. */
  goTo: (position: number) => Promise<void>;
  notify: (text: string, kind?: "error" | "info") => void;
  hush: () => void;
}

/**
 * What is on its way to one project. Another project has its own: an answer that comes
 * after another one was opened goes to the project that was asked, and shows nowhere else.
 */
interface Work {
  id: string;
  queue: Pending[];
  sending: boolean;
  line: Promise<void>; // edits, undo and the rest go one after another
  /** The newest state of the project that is known, also while another one is shown. */
  last: State | null;
}

const works = new Map<string, Work>();

function workOf(id: string): Work {
  let w = works.get(id);
  if (!w) {
    w = { id, queue: [], sending: false, line: Promise.resolve(), last: null };
    works.set(id, w);
  }
  return w;
}

/** Edits of one gesture that wait replace each other where they set the same thing. */
function enqueue(queue: Pending[], edits: Edit[], coalesce: string) {
  const last = queue.at(-1);
  if (coalesce && last?.coalesce === coalesce && sameTargets(last.edits, edits)) last.edits = edits;
  else queue.push({ edits, coalesce });
}

/** Whether the later edits set the very things that the earlier ones set. */
function sameTargets(a: Edit[], b: Edit[]) {
  const key = ({ ...fields }: Record<string, unknown>) => {
    delete fields.value;
    return JSON.stringify(fields);
  };
  const sets = (e: Edit) => e.op === "number.set" || e.op === "hit.set";
  return (
    a.length === b.length &&
    a.every((e, i) => sets(e) && key({ ...e }) === key({ ...(b[i] as Edit) } as Record<string, unknown>))
  );
}

function sameButReferences(a: State, b: State): boolean {
  const rest = (s: State) => JSON.stringify({ ...s.document, references: [], active_reference: "" });
  const kept = a.document.references.every((r) =>
    b.document.references.some((o) => JSON.stringify(o) === JSON.stringify(r)),
  );
  return kept && rest(a) === rest(b);
}

/** The state that an answer makes of the one before; read anew where it does not fit. */
async function after(before: State, answer: Promise<Schemas["Changed"]>): Promise<State> {
  return changed(before, await answer) ?? api.open(before.id);
}

export const useProject = create<ProjectStore>((set, get) => {
  /** The newest state of a project: what is shown, if it is that. */
  const stateOf = (w: Work): State | null => {
    const shown = get().state;
    return shown?.id === w.id ? shown : w.last;
  };

  /** Takes a newer state of a project, and shows it if the project is the one on show. */
  function take(w: Work, s: State) {
    w.last = s;
    if (get().state?.id === w.id) set({ state: s });
  }

  async function drain(w: Work) {
    while (w.queue.length > 0) {
      const state = stateOf(w);
      const next = w.queue.shift();
      if (!state || !next) break;
      try {
        const answer = await api.edit(state.id, state.version, next.edits, next.coalesce);
        take(w, changed(stateOf(w) ?? state, answer) ?? (await api.open(w.id)));
        if (answer.notes.length > 0) get().notify(answer.notes.join(" "), "info");
      } catch (e) {
        if (e instanceof ApiError && e.code === "version_conflict" && (await caughtUp(w, state))) {
          w.queue.unshift(next);
          continue;
        }
        const waiting = w.queue;
        w.queue = [];
        const conflict = e instanceof ApiError && e.code === "version_conflict";
        await recover(w, e, conflict ? 0 : waiting.reduce((n, p) => n + p.edits.length, 0));
        // Nothing is lost: what was refused can be made on what the other window made.
        const notice = get().notice;
        if (conflict && notice)
          set({
            notice: {
              ...notice,
              action: {
                text: "Apply my change to the new version",
                run: () => {
                  for (const p of [next, ...waiting]) put(w, p.edits, p.coalesce);
                },
              },
            },
          });
      }
    }
  }

  /** Puts edits in line for a project. */
  function put(w: Work, edits: Edit[], coalesce: string) {
    enqueue(w.queue, edits, coalesce);
    if (w.sending) return;
    w.sending = true;
    if (get().state?.id === w.id) set({ saving: true });
    w.line = w.line
      .then(() => drain(w))
      .finally(() => {
        w.sending = false;
        if (get().state?.id === w.id) set({ saving: false });
      });
  }

  /**
   * Whether all that has changed since a state is a reference that came in, as
   * when a file has been listened to: nothing that is edited here. The newest
   * state is taken then.
   */
  async function caughtUp(w: Work, since: State): Promise<boolean> {
    const newest = await api.open(since.id).catch(() => null);
    if (!newest || newest.version === since.version || !sameButReferences(since, newest)) return false;
    take(w, newest);
    return true;
  }

  async function recover(w: Work, e: unknown, lost = 0) {
    const what =
      e instanceof Error ? e.message : "The change could not be made. The project is as it was. Try again.";
    const more =
      lost === 0
        ? ""
        : lost === 1
          ? " One later change was not made."
          : ` ${lost} later changes were not made.`;
    get().notify(what + more, "error");
    if (e instanceof ApiError && e.status !== 0) {
      const newest = await api.open(w.id).catch(() => null);
      if (newest) take(w, newest);
    }
  }

  /** Runs f when every waiting edit, undo and the like has been answered: keys come faster than answers. */
  function settled(f: (s: State) => Promise<State>): Promise<void> {
    const shown = get().state;
    if (!shown) return Promise.resolve();
    const w = workOf(shown.id);
    w.line = w.line.then(() => next(w, f));
    return w.line;
  }

  async function next(w: Work, f: (s: State) => Promise<State>) {
    const state = stateOf(w);
    if (!state) return;
    try {
      take(w, await f(state));
    } catch (e) {
      await recover(w, e);
    }
  }

  return {
    state: null,
    saving: false,
    notice: null,
    open: async (id) => {
      const mine = ++opened;
      const w = workOf(id);
      await w.line; // what was still on its way there
      const state = await api.open(id);
      w.last = state;
      if (mine === opened) set({ state, saving: w.sending }); // else another one was asked for since
    },
    refresh: async () => {
      const shown = get().state;
      if (!shown) return;
      const w = workOf(shown.id);
      await w.line;
      const newest = await api.open(w.id);
      // An edit may have been answered in the meantime.
      if ((stateOf(w)?.version ?? 0) < newest.version) take(w, newest);
    },
    close: () => {
      opened++;
      const shown = get().state;
      if (shown) workOf(shown.id).last = shown;
      set({ state: null, saving: false });
    },
    edit: (edits, coalesce = "") => {
      const shown = get().state;
      if (shown && edits.length > 0) put(workOf(shown.id), edits, coalesce);
    },
    answered: () => {
      const shown = get().state;
      return shown ? workOf(shown.id).line : Promise.resolve();
    },
    useProfile: (profile) => settled((s) => api.useProfile(s.id, s.version, profile)),
    useRecording: (from) => settled((s) => api.useRecording(s.id, { base: s.version, ...from })),
    bounceRow: (ask) =>
      settled(async (s) => {
        const before = s.document.kit.voices.length;
        const grown = await api.bounceRow(s.id, s.version, ask);
        const made = grown.document.kit.voices.slice(before).map((v) => v.name);
        get().notify(
          `${made.join(", ")} ${made.length === 1 ? "is a voice" : "are voices"} of this kit now.`,
          "info",
        );
        return grown;
      }),
    bouncePiece: (ask) =>
      settled(async (s) => {
        const grown = await api.bouncePiece(s.id, { base: s.version, ...ask });
        const made = grown.document.kit.voices.slice(s.document.kit.voices.length).map((v) => v.name);
        get().notify(
          made.length > 0
            ? `${made.join(", ")} ${made.length === 1 ? "is a voice" : "are voices"} of this kit now.`
            : "It stands behind the drums now.",
          "info",
        );
        return grown;
      }),
    effectRecording: (row, effect, file) =>
      settled((s) => api.effectRecording(s.id, s.version, row, effect, file)),
    takeMix: (from, what) =>
      settled(async (s) => {
        const taken = await api.takeMix(s.id, s.version, from, what, false);
        get().notify(`Copied: ${taken.comes.join("; ")}.`, "info");
        return taken.state ?? s;
      }),
    addLayer: (voice, from) =>
      settled(async (s) => {
        const grown = await (from instanceof File
          ? api.layerFromFile(s.id, voice, s.version, from)
          : api.layerFromSlice(s.id, from.reference, { base: s.version, voice, slice: from.slice }));
        const name = grown.document.kit.voices.find((v) => v.id === voice)?.name ?? voice;
        get().notify(`${name} has one more layer.`, "info");
        return grown;
      }),
    takeDrum: (reference, voice, drum) =>
      settled(async (s) => {
        const taken = await api.takeDrum(s.id, reference, { base: s.version, voice, drum });
        const v = taken.document.kit.voices.find((v) => v.id === voice);
        get().notify(
          `${v?.name ?? voice} plays the reference's drum${(v?.layers.length ?? 0) > 1 ? ", soft strokes in a layer of their own" : ""}.`,
          "info",
        );
        return taken;
      }),
    takeFit: (voice, job, attack, gesture) =>
      settled(async (s) => {
        const taken = await api.takeFit(s.id, voice, { base: s.version, job, attack, coalesce: gesture });
        const name = taken.document.kit.voices.find((v) => v.id === voice)?.name ?? voice;
        get().notify(`${name} is fitted; an attempt of its own is kept.`, "info");
        return taken;
      }),
    tidyLayer: (voice, layer) => settled((s) => api.tidyLayer(s.id, voice, { base: s.version, layer })),
    sliceLayer: (voice, layer, place) =>
      settled((s) => api.sliceLayer(s.id, voice, { base: s.version, layer, place })),
    borrowAttack: (voice, layer, from) =>
      settled((s) => api.borrowAttack(s.id, voice, { base: s.version, layer, from })),
    addTake: (take) => settled((s) => api.addTake(s.id, take)),
    undo: () => settled((s) => after(s, api.undo(s.id, s.version))),
    redo: () => settled((s) => after(s, api.redo(s.id, s.version))),
    goTo: (position) => settled((s) => after(s, api.goTo(s.id, s.version, position))),
    notify: (text, kind = "error") => set({ notice: { text, kind } }),
    hush: () => set({ notice: null }),
  };
});

let opened = 0; // how often a project was asked for
let gesture = 0;

/** A fresh coalesce name for a drag. */
export const newGesture = () => `g${Date.now().toString(36)}-${++gesture}`;
