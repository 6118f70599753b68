// The API of the server, typed by its OpenAPI document.
import type { components } from "./schema.gen";

export type Schemas = components["schemas"];
export type State = Schemas["State"];
export type Document = Schemas["Document"];
export type Edit = Schemas["Edit"];
export type Voice = Schemas["Voice"];
export type Layer = Schemas["Layer"];
export type Family = Schemas["Family"];
export type Hit = Schemas["Hit"];
export type Lane = Schemas["Lane"];
export type Analysis = Schemas["Analysis"];
export type HeardHit = Schemas["HeardHit"];
export type Job = Schemas["Job"];
export type Info = Schemas["Info"];
export type Param = Schemas["Param"];
export type VoiceSound = Schemas["VoiceSound"];
export type Comparison = Schemas["Comparison"];
export type Row = Schemas["Row"];
export type Peaks = Schemas["Peaks"];

/** A refusal by the server: a code for programs, a sentence for people. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

async function request<T>(method: string, path: string, body?: unknown, signal?: AbortSignal): Promise<T> {
  const init: RequestInit = { method, signal: signal ?? null };
  if (body instanceof FormData) init.body = body;
  else if (body !== undefined) {
    init.body = JSON.stringify(body);
    init.headers = { "Content-Type": "application/json" };
  }
  let reply: Response;
  try {
    reply = await fetch(path, init);
  } catch (cause) {
    if (signal?.aborted) throw cause;
    throw new ApiError(0, "unreachable", "Lost the connection to Jubrak. Start it again; your work is kept.");
  }
  const data = await reply.json().catch(() => null);
  if (!reply.ok) {
    const error = (data as Schemas["Failure"] | null)?.error;
    throw new ApiError(
      reply.status,
      error?.code ?? "unknown",
      error?.message ?? "No answer from Jubrak. Your last change may not be saved; check it, then try again.",
    );
  }
  return data as T;
}

const at = (id: string) => `/api/projects/${encodeURIComponent(id)}`;

export const api = {
  info: () => request<Info>("GET", "/api/info"),
  projects: () => request<Schemas["ProjectList"]>("GET", "/api/projects"),
  create: (name: string) => request<State>("POST", "/api/projects", { name }),
  duplicate: (id: string) => request<State>("POST", `${at(id)}/duplicate`),
  importArchive: (file: File) => {
    const form = new FormData();
    form.append("file", file);
    return request<Job>("POST", "/api/archives", form);
  },
  levels: (id: string, bars: number, velocity: number, chain: boolean) =>
    request<Schemas["Levels"]>(
      "GET",
      `${at(id)}/levels?bars=${bars}&velocity=${velocity}&chain=${chain ? 1 : 0}`,
    ),
  remove: (id: string) => request<object>("DELETE", at(id)),
  open: (id: string) => request<State>("GET", at(id)),
  edit: (id: string, base: number, edits: Edit[], coalesce: string) =>
    request<Schemas["Changed"]>("POST", `${at(id)}/edits`, { base, edits, coalesce }),
  undo: (id: string, base: number) => request<Schemas["Changed"]>("POST", `${at(id)}/undo`, { base }),
  redo: (id: string, base: number) => request<Schemas["Changed"]>("POST", `${at(id)}/redo`, { base }),
  history: (id: string) => request<Schemas["History"]>("GET", `${at(id)}/history`),
  goTo: (id: string, base: number, position: number) =>
    request<Schemas["Changed"]>("POST", `${at(id)}/history`, { base, position }),
  importReference: (id: string, file: File) => {
    const form = new FormData();
    form.append("file", file);
    return request<Job>("POST", `${at(id)}/references`, form);
  },
  analysis: (id: string, ref: string) => request<Analysis>("GET", `${at(id)}/references/${ref}`),
  wave: (id: string, ref: string, from: number, to: number, points: number) =>
    request<Peaks>("GET", `${at(id)}/references/${ref}/wave?from=${from}&to=${to}&points=${points}`),
  spectrogram: (id: string, ref: string, from: number, to: number, points: number) =>
    request<Schemas["Spectrogram"]>(
      "GET",
      `${at(id)}/references/${ref}/spectrogram?from=${from}&to=${to}&points=${points}`,
    ),
  slices: (id: string, ref: string) =>
    request<Schemas["SliceList"]>("GET", `${at(id)}/references/${ref}/slices`),
  drums: (id: string, ref: string) => request<Schemas["DrumSet"]>("GET", `${at(id)}/references/${ref}/drums`),
  takeDrum: (id: string, ref: string, body: Schemas["TakeDrum"]) =>
    request<State>("POST", `${at(id)}/references/${ref}/drums`, body),
  drumURL: (id: string, ref: string, of: Schemas["DrumOf"]) =>
    `${at(id)}/references/${ref}/drums/${of.family}/${of.group}${of.dry ? "?dry=1" : ""}`,
  layerFromSlice: (id: string, ref: string, body: Schemas["NewLayer"]) =>
    request<State>("POST", `${at(id)}/references/${ref}/layers`, body),
  library: () => request<Schemas["Library"]>("GET", "/api/library"),
  deleteItem: (item: string) => request<object>("DELETE", `/api/library/${encodeURIComponent(item)}`),
  saveCurve: (curve: Schemas["Curve"]) =>
    request<Schemas["LibraryCurve"]>("POST", "/api/library/curves", curve),
  saveKit: (id: string, name: string) =>
    request<Schemas["LibraryKit"]>("POST", `${at(id)}/library`, { name }),
  saveSound: (id: string, voice: string, sound: Schemas["NewLibrarySound"]) =>
    request<Schemas["LibrarySound"]>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/library`, sound),
  attempts: (id: string, voice: string) =>
    request<Schemas["Attempts"]>("GET", `${at(id)}/voices/${encodeURIComponent(voice)}/attempts`),
  keepAttempt: (id: string, voice: string, name: string) =>
    request<Schemas["Attempts"]>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/attempts`, { name }),
  fit: (id: string, voice: string, ask: Schemas["FitAsk"]) =>
    request<Job>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/fit`, ask),
  takeFit: (id: string, voice: string, body: Schemas["TakeFit"]) =>
    request<State>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/fitted`, body),
  intoTones: (id: string, voice: string, ask: Schemas["IntoAsk"], signal?: AbortSignal) =>
    request<Schemas["IntoTones"]>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/into`, ask, signal),
  fitChain: (id: string, row: string, signal?: AbortSignal) =>
    request<Schemas["RowFit"]>("POST", `${at(id)}/chain-fit`, { row }, signal),
  fitted: (job: string) => request<Schemas["FitSoFar"]>("GET", `/api/jobs/${encodeURIComponent(job)}/fit`),
  fitTo: (file: File) => {
    const form = new FormData();
    form.append("file", file);
    return request<Schemas["FitFile"]>("POST", "/api/fit-files", form);
  },
  loudnessWith: (id: string, voice: string, layers: Layer[]) =>
    request<Schemas["Loudness"]>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/loudness`, {
      layers,
    }),
  mix: (id: string, signal?: AbortSignal) =>
    request<Schemas["Look"]>("GET", `${at(id)}/mix`, undefined, signal),
  bypassGain: (id: string, row: string, effect: string) =>
    request<Schemas["BypassGain"]>("POST", `${at(id)}/bypass-gain`, { row, effect }),
  odds: (right: number, of: number) => request<Schemas["Odds"]>("GET", `/api/odds?right=${right}&of=${of}`),
  bounceRow: (id: string, base: number, ask: Omit<Schemas["BounceRow"], "base">) =>
    request<State>("POST", `${at(id)}/bounce`, { base, ...ask }),
  voices: (id: string) => request<Schemas["VoiceFactList"]>("GET", `${at(id)}/voices`),
  takeMix: (id: string, base: number, from: string, what: string, dry: boolean) =>
    request<Schemas["TakenMix"]>("POST", `${at(id)}/mix`, { base, from, what, dry }),
  chains: () => request<Schemas["ChainList"]>("GET", "/api/chains"),
  saveChain: (id: string, row: string, name: string) =>
    request<Schemas["LibraryChain"]>("POST", `${at(id)}/chains`, { row, name }),
  near: (id: string, voice: string, than: string[], toTarget = false) =>
    request<Schemas["Distances"]>(
      "GET",
      `${at(id)}/voices/${encodeURIComponent(voice)}/near?than=${than.join(",")}${toTarget ? "&to=target" : ""}`,
    ),
  vary: (id: string, voice: string, ask: Schemas["VaryAsk"], signal?: AbortSignal) =>
    request<Schemas["VariantList"]>(
      "POST",
      `${at(id)}/voices/${encodeURIComponent(voice)}/variants`,
      ask,
      signal,
    ),
  numbered: async (id: string, voice: string, ask: Schemas["Numbered"]) => {
    const reply = await fetch(`${at(id)}/voices/${encodeURIComponent(voice)}/numbered.zip`, {
      method: "POST",
      headers: { "Content-Type": "application/json" },
      body: JSON.stringify(ask),
    });
    if (!reply.ok) {
      const error = ((await reply.json().catch(() => null)) as Schemas["Failure"] | null)?.error;
      throw new ApiError(
        reply.status,
        error?.code ?? "unknown",
        error?.message ?? "No files came back. Try again.",
      );
    }
    const name =
      /filename="([^"]+)"/.exec(reply.headers.get("Content-Disposition") ?? "")?.[1] ?? "sounds.zip";
    return { name, data: await reply.blob() };
  },
  tidyLayer: (id: string, voice: string, body: Schemas["Tidy"]) =>
    request<State>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/tidy`, body),
  fills: () => request<Schemas["FillList"]>("GET", "/api/fills"),
  piece: (id: string, signal?: AbortSignal) =>
    request<Schemas["PieceFacts"]>("GET", `${at(id)}/piece`, undefined, signal),
  drawable: (id: string, signal?: AbortSignal) =>
    request<Schemas["DrawableList"]>("GET", `${at(id)}/piece/drawable`, undefined, signal),
  pieceRoom: (id: string, signal?: AbortSignal) =>
    request<Schemas["Space"]>("GET", `${at(id)}/piece/room`, undefined, signal),
  bouncePiece: (id: string, body: Schemas["PieceBounce"]) =>
    request<State>("POST", `${at(id)}/piece/bounce`, body),
  outline: (id: string, ref: string) =>
    request<Schemas["ShapeOf"]>("GET", `${at(id)}/references/${encodeURIComponent(ref)}/outline`),
  addBacking: (id: string, tick: number, file: File) => {
    const form = new FormData();
    form.append("file", file);
    return request<Job>("POST", `${at(id)}/backings?at=${tick}`, form);
  },
  backings: (id: string, signal?: AbortSignal) =>
    request<Schemas["BackingList"]>("GET", `${at(id)}/backings`, undefined, signal),
  backingWave: (id: string, backing: string, points: number, signal?: AbortSignal) =>
    request<Peaks>(
      "GET",
      `${at(id)}/backings/${encodeURIComponent(backing)}/wave?points=${points}`,
      undefined,
      signal,
    ),
  pieceHits: (id: string, from: number, to: number, signal?: AbortSignal) =>
    request<Schemas["PieceHits"]>("GET", `${at(id)}/piece/hits?from=${from}&to=${to}`, undefined, signal),
  patterns: () => request<Schemas["PatternList"]>("GET", "/api/patterns"),
  propose: (id: string, body: Schemas["Ask"]) =>
    request<Schemas["ProposedList"]>("POST", `${at(id)}/suggest`, body),
  between: (id: string, signal?: AbortSignal) =>
    request<Schemas["PairList"]>("GET", `${at(id)}/between`, undefined, signal),
  tries: (id: string, signal?: AbortSignal) =>
    request<Schemas["TryList"]>("GET", `${at(id)}/tries`, undefined, signal),
  saveFeel: (id: string, name: string) =>
    request<Schemas["Profile"]>("POST", `${at(id)}/feel`, { name, notes: "", tags: [] }),
  roots: (id: string, ref: string) =>
    request<Schemas["Roots"]>("GET", `${at(id)}/references/${encodeURIComponent(ref)}/roots`),
  nearest: (id: string) => request<Schemas["NearestRecording"]>("GET", `${at(id)}/nearest`),
  saveHabit: (id: string, body: Schemas["HabitAsk"]) =>
    request<Schemas["Profile"]>("POST", `${at(id)}/habit`, body),
  sliceLayer: (id: string, voice: string, body: Schemas["SliceLayer"]) =>
    request<State>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/slice`, body),
  borrowAttack: (id: string, voice: string, body: Schemas["Borrowed"]) =>
    request<State>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/attack`, body),
  layerFromFile: (id: string, voice: string, base: number, file: File) => {
    const form = new FormData();
    form.append("file", file);
    return request<State>("POST", `${at(id)}/voices/${encodeURIComponent(voice)}/layers?base=${base}`, form);
  },
  effectRecording: (id: string, base: number, row: string, effect: string, file: File) => {
    const form = new FormData();
    form.append("file", file);
    return request<State>(
      "POST",
      `${at(id)}/effects/${encodeURIComponent(effect)}/recording?base=${base}&row=${encodeURIComponent(row)}`,
      form,
    );
  },
  slicesURL: (id: string, ref: string) => `${at(id)}/references/${ref}/slices.zip`,
  addTake: (id: string, take: Schemas["Take"]) => request<State>("POST", `${at(id)}/takes`, take),
  mapping: () => request<Schemas["Mapping"]>("GET", "/api/mapping"),
  saveMapping: (m: Schemas["Mapping"]) => request<object>("PUT", "/api/mapping", m),
  recordings: (except: string) =>
    request<Schemas["RecordingList"]>("GET", `/api/recordings?except=${encodeURIComponent(except)}`),
  useRecording: (id: string, body: Schemas["UseRecording"]) =>
    request<State>("POST", `${at(id)}/recording`, body),
  profiles: () => request<Schemas["ProfileList"]>("GET", "/api/profiles"),
  shrinkProfile: (profile: string, ask: Schemas["ShrinkAsk"]) =>
    request<Schemas["Profile"]>("POST", `/api/profiles/${encodeURIComponent(profile)}/shrink`, ask),
  deleteProfile: (profile: string) => request<object>("DELETE", `/api/profiles/${profile}`),
  saveProfile: (id: string, ref: string, body: Schemas["NewProfile"]) =>
    request<Schemas["Profile"]>("POST", `${at(id)}/references/${ref}/profile`, body),
  useProfile: (id: string, base: number, profile: string) =>
    request<State>("POST", `${at(id)}/profile`, { base, profile }),
  voiceSound: (id: string, voice: string, zoom: number, signal?: AbortSignal) =>
    request<VoiceSound>(
      "GET",
      `${at(id)}/voices/${encodeURIComponent(voice)}/sound?zoom=${zoom}`,
      undefined,
      signal,
    ),
  /** other is a reference, or "project:" with the id of another project, in mine's place. */
  compare: (id: string, other = "", beside: string[] = [], signal?: AbortSignal) => {
    const project = other.startsWith("project:") ? other.slice("project:".length) : "";
    const query = project
      ? `?project=${project}`
      : other
        ? `?reference=${other}`
        : beside.length > 0
          ? `?beside=${beside.join(",")}`
          : "";
    return request<Comparison>("GET", `${at(id)}/compare${query}`, undefined, signal);
  },
  distances: (id: string) => request<Schemas["DistanceList"]>("GET", `${at(id)}/distances`),
  applyRows: (id: string, rows: string[]) => request<Job>("POST", `${at(id)}/apply`, { rows }),
  applied: (job: string) =>
    request<Schemas["Applied"]>("GET", `/api/jobs/${encodeURIComponent(job)}/applied`),
  rebuild: (id: string, ask: Schemas["RebuildAsk"]) => request<Job>("POST", `${at(id)}/rebuild`, ask),
  rebuilt: (job: string) =>
    request<Schemas["Rebuilt"]>("GET", `/api/jobs/${encodeURIComponent(job)}/rebuilt`),
  origins: (id: string) => request<Schemas["OriginList"]>("GET", `${at(id)}/origins`),
  blind: (id: string, ask: Schemas["BlindAsk"]) =>
    request<Schemas["BlindGame"]>("POST", `${at(id)}/blind`, ask),
  blindResults: (id: string) => request<Schemas["BlindResultList"]>("GET", `${at(id)}/blind`),
  answerBlind: (game: string, x: Schemas["BlindSide"]) =>
    request<Schemas["BlindGame"]>("POST", `/api/blind/${encodeURIComponent(game)}`, { x }),
  jobs: () => request<Schemas["JobList"]>("GET", "/api/jobs"),
  job: (id: string) => request<Job>("GET", `/api/jobs/${id}`),
  restartJob: (id: string) => request<Job>("POST", `/api/jobs/${id}/restart`),
  soFar: (id: string) => request<Schemas["SoFar"]>("GET", `/api/jobs/${id}/so-far`),
  long: (long: string) => request<Schemas["LongFile"]>("GET", `/api/long/${long}`),
  dropLong: (long: string) => request<object>("DELETE", `/api/long/${long}`),
  importStretch: (id: string, long: string, stretch: Schemas["Stretch"]) =>
    request<Job>("POST", `${at(id)}/long/${long}`, stretch),
  cancelJob: (id: string) => request<object>("DELETE", `/api/jobs/${id}`),
  exportURL: (
    id: string,
    what: string,
    o: {
      format: string;
      bars: number;
      gain: number;
      pickup: boolean;
      tracks: boolean;
      notes: boolean;
      velocity: number;
      chain: boolean;
      backings: boolean;
    },
  ) =>
    `${at(id)}/export/${what}?format=${o.format}&bars=${o.bars}&gain_db=${o.gain}&pickup=${o.pickup ? 1 : 0}&tracks=${o.tracks ? 1 : 0}&notes=${o.notes ? 1 : 0}&velocity=${o.velocity}&chain=${o.chain ? 1 : 0}&backings=${o.backings ? 1 : 0}`,
};
