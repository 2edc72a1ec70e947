// npm run simulate: services, publishers and stoppers in a world of their own, in which a night takes a second.
import { parseArgs } from "node:util";
import { gatherDrafts } from "./desk/scenario.ts";
import { followFolders } from "./folders/scenario.ts";
import { world } from "./machine/clock.ts";
import { forgetDisks } from "./machine/fs.ts";
import { enterWorld } from "./machine/globals.ts";
import { forgetServers } from "./machine/net.ts";
import type { Ran } from "./ran.ts";
import { followShelves } from "./shelves/scenario.ts";

const { values } = parseArgs({
  options: {
    /** The first seed; the next ones follow it. */
    seed: { type: "string", default: "1" },
    /** How long each seed's world lasts. */
    days: { type: "string", default: "0.25" },
    /** How many seeds are played; as many as there is time for if left out. */
    runs: { type: "string" },
    /** How long to play, by a real clock. */
    seconds: { type: "string", default: "20" },
    /** Tells what happens. */
    tell: { type: "boolean", default: false },
    /** One kind of scenario. */
    only: { type: "string" },
  },
});

const scenarios: Readonly<Record<string, (hours: number) => Promise<Ran>>> = {
  shelves: followShelves,
  folders: followFolders,
  drafts: gatherDrafts,
};

const cpu = process.cpuUsage.bind(process);
const clock = performance.now.bind(performance);
const say = console.log.bind(console);

async function play(name: string, seed: number): Promise<Ran> {
  world.reset(seed);
  forgetDisks();
  forgetServers();
  let ran: Ran | undefined;
  const main = scenarios[name]!(Number(values.days) * 24).then((done) => {
    ran = done;
  });
  await world.until(main);
  return ran!;
}

async function playAll(): Promise<void> {
  enterWorld();
  if (!values.tell) Error.stackTraceLimit = 6;
  if (values.tell) world.told = say;
  const names = values.only === undefined ? Object.keys(scenarios) : [values.only];
  const until = clock() + Number(values.seconds) * 1_000;
  const most = values.runs === undefined ? Number.POSITIVE_INFINITY : Number(values.runs);
  const total = { runs: 0, hours: 0, checks: 0, lists: 0, faults: 0 };
  for (let seed = Number(values.seed); total.runs < most && (values.runs !== undefined || clock() < until); seed++) {
    const name = names[seed % names.length]!;
    total.runs++;
    try {
      const ran = await play(name, seed);
      total.hours += ran.hours;
      total.checks += ran.checks;
      total.lists += ran.lists;
      if (most < 10) say(`seed ${seed}: ${name}, trace ${world.trace.toString(16)}`);
    } catch (error) {
      say(`seed ${seed}: ${name}, at ${new Date(world.now).toISOString()}: ${(error as Error).stack}`);
      say(`npm run simulate -- --seed ${seed} --runs 1 --only ${name} --days ${values.days} makes it again`);
      total.faults++;
    }
  }
  const { user, system } = cpu();
  const seconds = (user + system) / 1e6;
  say(
    `${total.runs} worlds, ${Math.round(total.hours)} service-hours in ${seconds.toFixed(1)} s of CPU, ` +
      `${total.lists} lists and files put, ${total.checks} times held against them, ${total.faults} faults`,
  );
  process.exit(total.faults > 0 ? 1 : 0);
}

// What is loaded late stands behind this in the same file.
setImmediate(() => void playAll());
