// A thousand pages that listen to one service: what each takes, and how long the last one waits for a change.
import { fork } from "node:child_process";
import { once } from "node:events";
import { mkdtemp, rm, writeFile } from "node:fs/promises";
import { createServer } from "node:http";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { followFlags } from "iudex";
import { nodeGate } from "iudex/http";
import { middle, sized } from "./measure.mjs";

const pages = sized(1_000, 20);
const rounds = sized(9);
const definitions = (minutes) => `iudex: 1
defaults: { by: account.id }
flags:
  hold-minutes: { safe: ${minutes} }
  zone-fares: { safe: false, rules: [{ share: "40%", give: true }] }
`;

export async function run() {
  const folder = await mkdtemp(join(tmpdir(), "iudex-bench-"));
  const save = (minutes) => writeFile(join(folder, "a.yaml"), definitions(minutes));
  await save(0);
  const flags = await followFlags(folder, { watch: { quiet: 20 } });
  const context = ({ headers }) => ({ account: { id: headers.person } });
  const gate = nodeGate(flags, { context, address: () => undefined });
  const ours = await measured(
    gate.changes({ only: ["hold-minutes", "zone-fares"], maxFromOneAddress: pages }),
    async (round) => {
      const changed = new Promise((resolve) => {
        const off = flags.on("change", () => resolve(off() ?? performance.now()));
      });
      await save(round);
      return changed;
    },
  );
  // The baseline: a server that writes one prepared text to each of its open answers.
  const open = new Set();
  const text = `event: flags\nid: 0123456789abcdefghijkl\ndata: ${JSON.stringify({ revision: flags.revision, values: { "hold-minutes": 1, "zone-fares": false } })}\n\n`;
  const bare = await measured(
    (_, response) => {
      open.add(response.writeHead(200, { "content-type": "text/event-stream" }));
      response.write(text);
    },
    async () => {
      const since = performance.now();
      for (const response of open) response.write(text);
      return since;
    },
  );
  await flags.close();
  await rm(folder, { recursive: true });
  const each = (bytes) => `${Math.round(bytes / pages / 1024)} kB`;
  return [
    {
      name: `memory of a stream, ${each(ours.bytes)}, against a bare one, ${each(bare.bytes)}`,
      ratio: ours.bytes / bare.bytes,
    },
    {
      name: "until the last of 1,000 pages has a change, against writing it to 1,000 bare streams",
      ratio: ours.time / bare.time,
    },
    {
      name: "CPU of a change that 1,000 pages are told, reload included, against writing it to 1,000 bare streams",
      ratio: ours.cpu / bare.cpu,
      atMost: 2,
    },
  ];
}

/** @param change makes a change, and gives the time at which it was in force */
async function measured(listener, change) {
  const server = createServer(listener);
  await new Promise((resolve) => server.listen(0, "127.0.0.1", resolve));
  const before = await settledMemory();
  const client = fork(join(import.meta.dirname, "pages-client.mjs"), [String(server.address().port), String(pages)]);
  // Once all have the first event, and again whenever all have one more.
  const all = () => once(client, "message");
  await all();
  const bytes = (await settledMemory()) - before;
  const times = [];
  const costs = [];
  for (let round = 1; round <= rounds; round++) {
    const told = all().then(() => performance.now());
    const before = process.cpuUsage();
    const since = await change(round);
    times.push((await told) - since);
    const { user, system } = process.cpuUsage(before);
    costs.push(user + system);
  }
  client.kill();
  server.closeAllConnections();
  await new Promise((resolve) => server.close(resolve));
  return { bytes, time: middle(times), cpu: middle(costs) };
}

async function settledMemory() {
  // What was closed is let go a little later.
  for (let i = 0; i < 4; i++) {
    await new Promise((resolve) => setTimeout(resolve, 200));
    globalThis.gc();
  }
  const { heapUsed, external } = process.memoryUsage();
  return heapUsed + external;
}
