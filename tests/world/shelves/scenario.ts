// Services that follow a shelf, publishers, a stopper, and everything that can go wrong with them, drawn from a seed.
import {
  type Published,
  publishAgain,
  publishFolder,
  reinstateAtShelf,
  suspendAtShelf,
} from "../../../src/edit/index.ts";
import { ToolError } from "../../../src/files/index.ts";
import { ShelfFault } from "../../../src/shelf/index.ts";
import { Process, world } from "../machine/clock.ts";
import { mkdir, rm, writeFile } from "../machine/fs.ts";
import type { Ran } from "../ran.ts";
import { healAll } from "../service.ts";
import { Follower } from "./follower.ts";
import { publicKeys, publisherKey, stopperKey } from "./keys.ts";
import { anyStand, type ShelfStand } from "./stand.ts";
import { filesOf, heldBy, newestOf, noteOf, stoppedBy, switches } from "./truth.ts";

const hour = 3_600_000;

export async function followShelves(hours: number): Promise<Ran> {
  const scenario = new ShelfScenario();
  return scenario.run(hours);
}

/** A stop, or its end, that was asked for. */
interface Asked {
  readonly flag: string;
  readonly isStop: boolean;
}

class ShelfScenario {
  readonly #stand: ShelfStand = anyStand();
  readonly #followers = Array.from({ length: 2 + world.below(4) }, (_, i) => new Follower(`service-${i}`, this.#stand));
  readonly #lists = (name: "edition" | "stops") => this.#stand.lists(name);
  /** Each change of the stops that somebody has begun. */
  readonly #asked: Asked[] = [];
  #tokens = 0;
  /** Something may be wrong at the moment. */
  #isFaulty = false;

  async run(hours: number): Promise<Ran> {
    const begun = world.now;
    for (const { machine } of this.#followers) this.#stand.join(machine);
    for (const machine of ["publisher-0", "publisher-1", "stopper"]) this.#stand.join(machine);
    await this.#publish(0);
    while (world.now - begun < hours * hour) {
      for (let steps = 5 + world.below(10); steps > 0; steps--) await this.#step();
      await this.#heal();
    }
    for (const follower of this.#followers) await follower.close();
    const lists = newestOf(this.#lists("edition")) + newestOf(this.#lists("stops"));
    const checks = this.#followers.reduce((sum, follower) => sum + follower.checks, 0);
    return { hours: ((world.now - begun) / hour) * this.#followers.length, checks, lists };
  }

  async #step(): Promise<void> {
    const follower = world.oneOf(this.#followers);
    const steps: (() => Promise<unknown> | unknown)[] = [
      () => this.#publish(world.below(2)),
      () => Promise.all([this.#publish(0), this.#publish(1)]),
      () => this.#killed(`publisher-${world.below(2)}`, (process) => this.#publishAs(process)),
      () => this.#slept(`publisher-${world.below(2)}`, (process) => this.#publishAs(process)),
      () => this.#again(),
      () => this.#stop(),
      () => this.#stop(),
      () => this.#killed("stopper", (process) => this.#stopAs(process)),
      () => this.#slept("stopper", (process) => this.#stopAs(process)),
      () => this.#fail(follower.machine),
      () => this.#fail(follower.machine),
      () => this.#failDisk(follower),
      () => follower.kill(),
      () => follower.losePower(),
      () => follower.begin(),
      () => follower.sleep(world.random() * 600_000),
      () => follower.jump(world.oneOf([-hour, hour, 1_000, -1_000])),
    ];
    const step = world.below(steps.length);
    world.note(step);
    world.say(`step ${step} ${follower.machine}`);
    if (step >= steps.length - 3 && step < steps.length - 2 && follower.isUp) return;
    if (step >= steps.length - 5) this.#isFaulty = true;
    await steps[step]!();
    await world.sleep(world.random() * world.oneOf([1_000, 30_000, 300_000, hour]));
    this.#check();
  }

  #check(): void {
    for (const follower of this.#followers) if (!follower.isAsleep) follower.check();
    this.#mustKeepStops();
  }

  /** From one list of stops to the next, nothing changes but what somebody has asked for. */
  #mustKeepStops(): void {
    const lists = this.#lists("stops");
    const newest = newestOf(lists);
    if (newest !== lists.size) throw new Error(`of the lists of stops up to ${newest} there are ${lists.size}`);
    for (let number = 1; number <= newest; number++) {
      const [before, after] = [stoppedBy(lists.get(number - 1)), stoppedBy(lists.get(number))];
      const isMeant = this.#asked.some(({ flag, isStop }) => {
        const expected = new Set(before);
        if (isStop) expected.add(flag);
        else expected.delete(flag);
        return expected.size === after.size && [...expected].every((name) => after.has(name));
      });
      if (!isMeant) throw new Error(`list ${number} makes ${[...after]} of ${[...before]}, and nobody asked for that`);
    }
  }

  #publish(which: number): Promise<unknown> {
    return this.#publishAs(new Process(`publisher-${which}`));
  }

  #publishAs(process: Process): Promise<unknown> {
    const token = ++this.#tokens;
    const stopped = world.chance(0.2) ? world.oneOf(switches) : undefined;
    const folder = `/definitions/${token}`;
    const request = { folder, key: publisherKey, keys: publicKeys, by: process.machine, note: noteOf(token, stopped) };
    return world.as(process, async () => {
      await mkdir(folder, { recursive: true });
      for (const [name, text] of Object.entries(filesOf(token, stopped))) await writeFile(`${folder}/${name}`, text);
      await unlessAway(published(publishFolder(this.#stand.publishing(), request)));
      await rm(folder, { recursive: true });
    });
  }

  async #again(): Promise<void> {
    const lists = this.#lists("edition");
    const number = world.oneOf([...lists.keys()]);
    const { token, stopped } = heldBy(lists.get(number)!);
    const request = { key: publisherKey, keys: publicKeys, by: "publisher-0", note: noteOf(token, stopped) };
    const again = () => unlessAway(publishAgain(this.#stand.publishing(), number, request));
    await world.as(new Process("publisher-0"), again);
  }

  async #stop(): Promise<void> {
    const wasSound = !this.#isFaulty;
    await this.#stopAs(new Process("stopper"));
    if (!wasSound || this.#isFaulty) return;
    await world.sleep(this.#stand.prompt);
    for (const follower of this.#followers) if (follower.isUp && !follower.isAsleep) follower.mustBeNewest("stops");
  }

  async #stopAs(process: Process): Promise<void> {
    const flag = world.oneOf(switches);
    const isStop = world.chance(0.6);
    this.#asked.push({ flag, isStop });
    const change = isStop ? suspendAtShelf : reinstateAtShelf;
    const request = { key: stopperKey, keys: publicKeys };
    await world.as(process, () => unlessAway(change(this.#stand.publishing(), { flag }, request)));
  }

  /** Somebody is killed in the middle of it. */
  async #killed(machine: string, work: (process: Process) => Promise<unknown>): Promise<void> {
    const process = new Process(machine);
    void work(process);
    await world.sleep(world.random() * world.oneOf([5, 100, 3_000]));
    world.kill(process);
  }

  /** Somebody is stopped in the middle of it, for longer than anything waits, and goes on then. */
  async #slept(machine: string, work: (process: Process) => Promise<unknown>): Promise<void> {
    const process = new Process(machine);
    const working = work(process);
    await world.sleep(world.random() * world.oneOf([5, 100]));
    world.stop(process, 20_000 + world.random() * 60_000);
    await this.#stopAs(new Process("stopper"));
    await this.#publish(0);
    await working;
  }

  #fail(machine: string): void {
    this.#isFaulty = true;
    this.#stand.fail(machine);
  }

  #failDisk(follower: Follower): void {
    this.#isFaulty = true;
    follower.failDisk();
  }

  /** Ends all faults. A moment later every service has the newest of everything, and says so. */
  async #heal(): Promise<void> {
    world.say("everything is well again");
    this.#stand.heal();
    await healAll(this.#followers, this.#stand.healed);
    this.#isFaulty = false;
    for (const follower of this.#followers) follower.mustBeNewest("everything");
    this.#mustKeepStops();
  }
}

/** Nothing that is published here is refused for what it holds. */
async function published(work: Promise<Published>): Promise<void> {
  const { refused } = (await work).plan;
  if (refused.length > 0) throw new Error(refused.map(({ message }) => message).join(" "));
}

/** What others were quicker with, and a shelf that is away, are told; anything else is a fault. */
async function unlessAway(work: Promise<unknown>): Promise<void> {
  try {
    await work;
  } catch (error) {
    world.say(`${world.process.machine}: ${(error as Error).message}`);
    if (error instanceof ToolError || error instanceof ShelfFault) return;
    if ((error as Error).constructor.name === "NothingToChange") return;
    if ((error as NodeJS.ErrnoException).code !== undefined) return;
    throw error;
  }
}
