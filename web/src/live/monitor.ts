// The page's end of the streaming monitor. Sound begins with the first
// gesture of the user, as browsers ask.
import { create } from "zustand";
import type { Schemas } from "../api/client";
import { useProject } from "../state/project";
import { ppq } from "../state/ticks";
import playerURL from "./player.worklet.ts?worker&url";
import type { Bypass, Command, FeelPart, Report, Source } from "./wire";
import { WorkletClock } from "./workletClock";

const silence: Report = {
  played: 0,
  dry: 0,
  filled: 0,
  version: 0,
  position: 0,
  peak_left: 0,
  peak_right: 0,
  loudness: -100,
  playing: false,
  studying: false,
  held: false,
  piece: false,
  reach: 0,
  late: 0,
  turn: 0,
  time: 0,
};

interface MonitorStore {
  playing: boolean;
  /** A stretch of the reference is asked for or plays in place of the groove. */
  studying: boolean;
  source: Source;
  /** Whether the arrangement is played, not the groove. */
  piece: boolean;
  /** The part that goes round, ticks of what is played; null is all. */
  loop: { from: number; to: number } | null;
  /** Clicks a beat; 0 is none. */
  click: number;
  /** Bars of clicks before what is played. */
  countIn: number;
  /** The voices that are heard alone. */
  solo: string[];
  /** The parts of the feel that are heard; null is all. */
  hear: FeelPart[] | null;
  /** What is heard off, at the loudness that it has on. */
  bypass: Bypass | null;
  /** The speaker simulation. */
  system: string;
  /** Whether the way to the server is open: no sound is asked for before. */
  link: "idle" | "open" | "lost";
}

export const useMonitor = create<MonitorStore>(() => ({
  playing: false,
  studying: false,
  source: "mine",
  piece: false,
  loop: null,
  click: 0,
  countIn: 0,
  solo: [],
  hear: null,
  bypass: null,
  system: "full",
  link: "idle",
}));

/** A study that changes nothing of what is heard. */
const asItIs: Schemas["AuditionSettings"] = {
  reference: "",
  from_s: 0,
  to_s: 0,
  speed: 1,
  keep_pitch: true,
  band: "all",
  part: "all",
  click: "none",
  tempo_bpm: 0,
  beats: 0,
  bars: 0,
};

/** How long the sound may take to begin, ms. */
const patience = 10_000;

const noOutput =
  "No sound comes out: the browser has no sound output. Connect headphones or speakers and press Play again; some browsers find them only after a reload. Your work is kept.";

/** Reports whether a context runs, at the latest after a while; it waits in vain where there is no output. */
function runs(context: AudioContext): Promise<boolean> {
  return new Promise((done) => {
    const end = () => {
      clearTimeout(timer);
      context.removeEventListener("statechange", look);
      done(context.state === "running");
    };
    const look = () => context.state === "running" && end();
    const timer = setTimeout(end, patience);
    context.addEventListener("statechange", look);
  });
}

class Monitor {
  /** The newest report; read it in animation frames, it changes 90 times a second. */
  report: Report = silence;
  /** When it was made, on the page's clock. */
  reportAt = 0;
  private peakLeft = 0;
  private peakRight = 0;
  /** Called with every report, for who must follow the sound's clock closely. */
  watch: ((r: Report, at: number) => void) | null = null;
  /** Whether blocks come in a stream beside the socket. */
  streams = false;
  context: AudioContext | null = null;
  node: AudioWorkletNode | null = null;
  private worker: Worker | null = null;
  private project = "";
  private starting: Promise<void> | null = null;
  /** What waits for the sound of the study that was asked for last. */
  private begun = () => {};
  private studied: Command | null = null;
  /** What plays on once the way to the server is open again. */
  private resume: Command | null = null;

  /** Points the monitor at a project; sound itself starts on demand. */
  attach(project: string) {
    if (this.project === project) return;
    this.detach();
    this.project = project;
  }

  detach() {
    this.close();
    this.project = "";
    useMonitor.setState({
      playing: false,
      studying: false,
      link: "idle",
      piece: false,
      loop: null,
      solo: [],
      hear: null,
      bypass: null,
    });
  }

  /** Ends the sound; the next one begins anew. */
  private close() {
    this.worker?.postMessage({ type: "close" });
    this.worker = null;
    const { context } = this;
    this.context = null;
    void context?.close();
    this.node = null;
    this.starting = null;
    this.resume = null;
    this.report = silence;
    this.takePeaks();
  }

  /**
   * Begins the sound, and reports whether it runs. It must be called within a gesture of the
   * user: browsers let sound begin only there.
   */
  private async start(): Promise<boolean> {
    if (this.context && this.context.state !== "running") void this.context.resume().catch(() => {});
    this.starting ??= this.begin();
    const { starting } = this;
    try {
      await starting;
    } catch {
      if (starting === this.starting)
        this.fail("The sound could not begin. Reload the page; your work is kept.");
      return false;
    }
    const { context } = this;
    if (context && (context.state === "running" || (await runs(context)))) return true;
    if (context && context === this.context) this.fail(noOutput);
    return false;
  }

  /** Ends the sound for a reason; the next one begins anew. */
  private fail(why: string) {
    this.close();
    useMonitor.setState({ playing: false, studying: false, link: "idle" });
    useProject.getState().notify(why);
  }

  private async begin() {
    const context = new AudioContext({ sampleRate: 48000, latencyHint: "interactive" });
    this.context = context;
    void context.resume().catch(() => {}); // still within the gesture
    context.onstatechange = () => this.interrupted(context);
    context.addEventListener("error", () => this.lost(context));
    await context.audioWorklet.addModule(playerURL);
    if (context !== this.context) return; // another project was opened
    const node = new AudioWorkletNode(context, "player", { numberOfInputs: 0, outputChannelCount: [2] });
    node.connect(context.destination);
    const clock = new WorkletClock();
    node.port.onmessage = (e: MessageEvent<Report>) => {
      this.report = e.data;
      this.peakLeft = Math.max(this.peakLeft, e.data.peak_left);
      this.peakRight = Math.max(this.peakRight, e.data.peak_right);
      this.reportAt = clock.at(e.data.time, performance.now());
      this.watch?.(e.data, this.reportAt);
    };
    this.node = node;
    const link = new MessageChannel();
    node.port.postMessage({ type: "link" }, [link.port1]);
    const worker = new Worker(new URL("./link.worker.ts", import.meta.url), { type: "module" });
    worker.onmessage = (e) => {
      if (e.data.type === "refused") {
        useMonitor.setState({ studying: false });
        useProject.getState().notify(e.data.message);
        return;
      }
      if (e.data.type === "begun") {
        this.begun();
        return;
      }
      this.streams = e.data.type === "streams";
      if (this.streams) return;
      if (e.data.type === "open") this.opened();
      else this.cut();
    };
    const url = `${location.origin}/api/projects/${this.project}/live`;
    worker.postMessage({ type: "connect", url }, [link.port2]);
    this.worker = worker;
  }

  /** The system takes the sound away, for a call or with its device. */
  private interrupted(context: AudioContext) {
    const { playing, studying } = useMonitor.getState();
    if (context !== this.context || context.state === "running" || !(playing || studying)) return;
    this.stop();
    useProject.getState().notify("The sound was interrupted. Press Play to go on.");
  }

  /** The output device is gone for good: the next sound begins anew. */
  private lost(context: AudioContext) {
    if (context === this.context) this.fail("The sound output was lost. Connect one and press Play.");
  }

  private opened() {
    useMonitor.setState({ link: "open" });
    this.sendAll();
    if (this.resume) this.send(this.resume);
    this.resume = null;
  }

  /** The way to the server is cut; what plays goes on from here when it is open again. */
  private cut() {
    const { playing, studying, link } = useMonitor.getState();
    if (link === "open") {
      const here: Command = { type: "play", tick: this.report.position, count_in: 0 };
      this.resume = playing ? here : studying ? this.studied : null;
    }
    useMonitor.setState({ link: "lost" });
  }

  private send(command: Command) {
    this.worker?.postMessage({ type: "command", command });
  }

  /** Sends how things are to be heard to a server that does not know it yet. */
  private sendAll() {
    const { source, piece, loop, click, solo, hear, bypass, system } = useMonitor.getState();
    this.send({ type: "source", source });
    if (piece) this.send({ type: "piece", on: true });
    if (loop) this.send({ type: "loop", ...loop });
    if (click > 0) this.send({ type: "click", on: true, per: click });
    if (solo.length > 0) this.send({ type: "solo", voices: solo });
    if (hear) this.send({ type: "hear", parts: hear });
    if (bypass) this.send({ type: "bypass", bypass });
    if (system !== "full") this.send({ type: "system", system });
  }

  /** Plays from a tick on; without one from the beginning of what goes round. */
  async play(tick?: number) {
    if (!(await this.start())) return;
    const { loop, countIn, piece } = useMonitor.getState();
    useMonitor.setState({ playing: true, studying: false });
    this.begun = () => {};
    this.resume = null;
    this.send({ type: "piece", on: piece }); // the tick is one of it
    this.send({ type: "play", tick: tick ?? loop?.from ?? 0, count_in: countIn });
  }

  /** Plays the arrangement, or the groove; what went round no longer does. */
  setPiece(piece: boolean) {
    if (useMonitor.getState().piece === piece) return;
    useMonitor.setState({ piece, loop: null });
    this.send({ type: "piece", on: piece });
  }

  /** Goes on at another place of the arrangement when the bar that plays is over. */
  leap(tick: number) {
    this.send({ type: "leap", tick });
  }

  /** Lets a part go round and round, or all of it. */
  setLoop(loop: { from: number; to: number } | null) {
    useMonitor.setState({ loop });
    this.send({ type: "loop", from: loop?.from ?? 0, to: loop?.to ?? 0 });
  }

  /** Clicks so many times a beat, or not at all. */
  setClick(click: number) {
    useMonitor.setState({ click });
    this.send({ type: "click", on: click > 0, per: Math.max(click, 1) });
  }

  setCountIn(countIn: number) {
    useMonitor.setState({ countIn });
  }

  /** Lets some voices be heard alone, or all. */
  setSolo(solo: string[]) {
    useMonitor.setState({ solo });
    this.send({ type: "solo", voices: solo });
  }

  /** Lets some parts of the feel be heard, none, or all. */
  setHear(hear: FeelPart[] | null) {
    useMonitor.setState({ hear });
    this.send({ type: "hear", parts: hear });
  }

  /** Lets a step, a chain or all of it be heard off, or everything as it is. */
  setBypass(bypass: Bypass | null) {
    useMonitor.setState({ bypass });
    this.send({ type: "bypass", bypass });
  }

  /** Lets only what a band of an equalizer is about be heard of a row; -1 lets all. */
  hearBand(row: string, effect: string, band: number) {
    this.send({ type: "band", row, effect, band });
  }

  /** Chooses the speaker simulation. */
  setSystem(system: string) {
    useMonitor.setState({ system });
    this.send({ type: "system", system });
  }

  /** The peaks of all that was heard since they were taken last: reports come faster than frames. */
  takePeaks(): [left: number, right: number] {
    const peaks: [number, number] = [this.peakLeft, this.peakRight];
    this.peakLeft = 0;
    this.peakRight = 0;
    return peaks;
  }

  /** Where the groove is now, ticks, and how long the way from here to the ear takes is left out. */
  now(bpm: number, at = performance.now()): number {
    return this.report.position + ((at - this.reportAt) * bpm * ppq) / 60000;
  }

  /**
   * Plays a stretch of the reference in a loop; asked again, it changes how. Making its sound
   * may take a while: begun is called when it is made and nothing else was asked for since.
   * False where no sound comes out.
   */
  async study(how: Partial<Schemas["AuditionSettings"]>, begun = () => {}): Promise<boolean> {
    if (!(await this.start())) return false;
    this.begun = begun;
    this.resume = null;
    useMonitor.setState({ playing: false, studying: true });
    this.studied = { type: "study", study: { ...asItIs, ...how } };
    this.send(this.studied);
    return true;
  }

  stop() {
    this.begun = () => {};
    this.resume = null;
    useMonitor.setState({ playing: false, studying: false });
    this.send({ type: "stop" });
  }

  toggle() {
    const now = useMonitor.getState();
    if (now.playing || now.studying) this.stop();
    else void this.play();
  }

  async strike(voice: string, velocity = 110) {
    if (!(await this.start())) return;
    this.send({ type: "strike", voice, velocity });
  }

  setSource(source: Source) {
    useMonitor.setState({ source });
    this.send({ type: "source", source });
  }
}

export const monitor = new Monitor();
