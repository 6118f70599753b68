// A soak of the mix: wild random edits of chains, rows and links by the API while the demo
// plays in the browser, for so many seconds (75 by default; the first argument). Prints
// how often the sound ran dry, what was refused and what went wrong.
import { open } from "./open.mjs";

const seconds = Number(process.argv[2] ?? 75);
const at = await open(7935);
const { page, json } = at;
const errors = [];
at.server.stderr.on("data", (d) => errors.push(...String(d).split("\n").filter((l) => /panic|ERROR/.test(l))));
page.on("pageerror", (e) => errors.push(String(e)));
const project = await at.project("Speed round");
const { effects: kinds } = await json("/api/info");
await page.goto(`${at.url}/p/${project}/mix`);
await page.waitForSelector("[data-row]");
await page.keyboard.press("Space");
await page.waitForTimeout(2000);

let seed = 5;
const random = (n) => {
  seed = (seed * 1103515245 + 12345) % 2147483648;
  return Math.floor((seed / 2147483648) * n);
};
const rows = ["kick", "snare", "hat", "open", "808", "bus:drums", "bus:room", "out"];
const chainOf = (d, row) => {
  if (row === "out") return d.mix.out.chain;
  const list = row.startsWith("bus:") ? d.mix.buses : d.kit.voices;
  return list.find((r) => r.id === row.replace("bus:", ""))?.chain ?? [];
};

function edit(d) {
  const row = rows[random(rows.length)];
  const chain = chainOf(d, row);
  const s = chain[random(chain.length)];
  const kind = kinds.find((k) => k.id === s?.kind);
  const what = random(9);
  if (what === 0) return { op: "effect.add", row, kind: kinds[random(kinds.length)].id, to: random(4) };
  if (what === 1) return { op: "row.to", row: rows[random(6)], to: ["", "drums", "room"][random(3)] };
  if (what === 2) return { op: "chain.link", row: rows[random(5)], like: ["", "kick", "bus:drums"][random(3)] };
  if (!s) return null;
  if (what === 3) return { op: "effect.remove", row, effect: s.id };
  if (what === 4) return { op: "effect.move", row, effect: s.id, to: random(4) };
  if (what === 5) return { op: "effect.switch", row, effect: s.id, off: !s.off };
  if (what === 6) return kind.keyed ? { op: "effect.sidechain", row, effect: s.id, key: ["", "kick", "snare"][random(3)] } : null;
  const p = kind.params[random(kind.params.length)];
  return { op: "number.set", at: `${row}/chain/${s.id}/${p.id}`, value: p.min + ((p.max - p.min) * random(100)) / 100 };
}

const before = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
const refused = {};
let done = 0;
for (const end = Date.now() + seconds * 1000; Date.now() < end; ) {
  const state = await json(`/api/projects/${project}`);
  const e = edit(state.document);
  if (!e) continue;
  done++;
  try {
    await json(`/api/projects/${project}/edits`, { base: state.version, edits: [e], coalesce: "" });
  } catch (refusal) {
    const why = JSON.parse(refusal.message).error.message;
    refused[why] = (refused[why] ?? 0) + 1;
  }
  await new Promise((next) => setTimeout(next, 60));
}
const after = await page.evaluate(() => ({ ...globalThis.jubrakMonitor.report }));
console.log(
  `${done} edits in ${seconds} s, ${((after.played - before.played) / 48000).toFixed(0)} s played, ran dry ${after.dry - before.dry} times, ${errors.length} errors`,
);
for (const [text, n] of Object.entries(refused)) console.log(`  refused ${n} times: ${text}`);
for (const e of errors.slice(0, 8)) console.log("  ", e);
await at.close();
process.exit(errors.length > 0 ? 1 : 0);
