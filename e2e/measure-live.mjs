// Measures how soon what is done is heard: node measure-live.mjs [seconds of soak] [what], where
// what is some of demo,hits,mix,soak,held. For the demo, 5,120 hits and a mix of 16 rows it
// prints the time from an edit, and from each other act, until the first changed sample leaves
// the worklet; then how often the sound ran dry in soaks with an edit every 100 ms beside views
// that are opened, without and with a page whose thread is held for 150 ms every two seconds.
// Behind each figure stands the steal time, what other machines on the same computer took.
import { full, mixed, open, spread, stealTime } from "./open.mjs";

const seconds = Number(process.argv[2] ?? 600);
const what = process.argv[3] ?? "demo,hits,mix,soak,held";
const at = await open(7933);
const { page, json } = at;

const begin = async (project) => {
  await page.goto(`${at.url}/p/${project}/groove`);
  await page.getByRole("button", { name: "Play", exact: true }).click();
  await page.waitForTimeout(2500);
};

/** The times from an act until it is heard, and how often it was not heard within a second. */
async function times(what, n, context) {
  const list = [];
  for (let i = 0; i < n; i++) {
    await page.waitForTimeout(180 + (i * 37) % 90);
    list.push(
      await page.evaluate(
        async ({ what, i, context }) => {
          const m = globalThis.jubrakMonitor;
          const { turn, version } = m.report;
          const send = (edits) =>
            fetch(`/api/projects/${context.project}/edits`, { method: "POST", body: JSON.stringify({ base: version, edits, coalesce: "" }) });
          const from = performance.now();
          const acts = {
            "an edit on the screen": () => document.querySelector('button[title="Other random numbers, the same amounts"]').click(),
            mute: () => send([{ op: "number.set", at: `${context.voice}/mute`, value: i % 2 }]),
            tempo: () => send([{ op: "number.set", at: "tempo/bpm", value: 90 + i }]),
            "a stroke": () => m.strike(context.voice, 100),
            solo: () => m.setSolo(i % 2 ? [] : [context.voice]),
            "what goes round": () => m.setLoop(i % 2 ? null : { from: 0, to: 3840 }),
            "off and on": () => m.setBypass(i % 2 ? null : { row: context.voice, effect: "", gain_db: 0 }),
            "a speaker simulation": () => m.setSystem(i % 2 ? "full" : "phone"),
            "mine and the reference": () => m.setSource(i % 2 ? "mine" : "both"),
            "the click": () => m.setClick(i % 2 ? 0 : 1),
          };
          acts[what]();
          while (m.report.turn === turn && performance.now() - from < 1000) await new Promise((done) => setTimeout(done, 1));
          return m.report.turn === turn ? null : m.reportAt - from;
        },
        { what, i, context },
      ),
    );
  }
  return list;
}

async function heard(project, where) {
  await begin(project);
  const { document } = await json(`/api/projects/${project}`);
  const context = { project, voice: document.kit.voices[0].id };
  const acts = ["an edit on the screen", "mute", "tempo", "a stroke", "solo", "what goes round", "off and on", "a speaker simulation", "the click"];
  if (document.references.length > 0) acts.push("mine and the reference");
  for (const what of acts) {
    const taken = stealTime();
    const list = await times(what, what === "an edit on the screen" ? 60 : 20, context);
    const got = list.filter((t) => t !== null);
    const lost = list.length - got.length;
    console.log(`${where}, ${what}: ${got.length > 0 ? spread(got) : "never"}${lost > 0 ? `, ${lost} not made anew` : ""}${taken()}`);
  }
  const r = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
  console.log(`${where}: made ${r.reach.toFixed(0)} ms ahead, ${(r.filled / 48).toFixed(0)} ms of sound there, ran dry ${r.dry} times`);
}

async function soak(project, held) {
  const taken = stealTime();
  await begin(project);
  const before = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
  const voice = (await json(`/api/projects/${project}`)).document.kit.voices[0].id;
  await page.evaluate(({ project, voice, held }) => {
    const level = () => {
      const { version } = globalThis.jubrakMonitor.report;
      const edits = [{ op: "number.set", at: `${voice}/level_db`, value: -(version % 30) / 10 }];
      void fetch(`/api/projects/${project}/edits`, { method: "POST", body: JSON.stringify({ base: version, edits, coalesce: "" }) });
    };
    const button = () => document.querySelector('button[title="Other random numbers, the same amounts"]');
    globalThis.editing = setInterval(() => (button() ? button().click() : level()), 100);
    if (held)
      globalThis.holding = setInterval(() => {
        for (const until = performance.now() + 150; performance.now() < until; );
      }, 2000);
  }, { project, voice, held });
  for (let s = 0; s < seconds; s += 5) {
    await page.waitForTimeout(5000);
    await page.keyboard.press(String(1 + ((s / 5) % 6)));
  }
  const after = await page.evaluate(() => {
    clearInterval(globalThis.editing);
    clearInterval(globalThis.holding);
    return { ...globalThis.jubrakMonitor.report };
  });
  const played = (after.played - before.played) / 48000;
  console.log(`${played.toFixed(0)} s with ${after.version - before.version} edits beside views that are opened${held ? ", the page held for 150 ms every 2 s" : ""}: ran dry ${after.dry - before.dry} times${taken()}`);
}

try {
  const demo = await at.project("Warm-up laps");
  await json(`/api/projects/${demo}/compare`);
  const asked = what.split(",");
  if (asked.includes("demo")) await heard(demo, "in the demo");
  if (asked.includes("hits")) await heard(await full(json, 64), "among 5,120 hits");
  if (asked.includes("mix")) await heard(await mixed(json), "in a mix of 16 rows");
  if (asked.includes("soak")) await soak(demo, false);
  if (asked.includes("held")) await soak(demo, true);
} finally {
  await at.close();
}
