import type { Flags } from "../../../src/flags/index.ts";
import { followFlags } from "../../../src/follow/index.ts";
import { Process, world } from "../machine/clock.ts";
import { diskOf } from "../machine/fs.ts";
import { publicKeys } from "./keys.ts";
import type { ShelfStand } from "./stand.ts";
import { heldBy, newestOf, stoppedBy, switches } from "./truth.ts";

/** What a service does that follows a shelf, held against what stands on it. */
export class Follower {
  readonly machine: string;
  readonly #stand: ShelfStand;
  #process: Process | undefined;
  #flags: Flags<undefined> | undefined;
  /** The highest that it has given, over all its lives. */
  #seen = { edition: 0, stops: 0 };
  checks = 0;

  constructor(machine: string, stand: ShelfStand) {
    this.machine = machine;
    this.#stand = stand;
  }

  get isUp(): boolean {
    return this.#flags !== undefined;
  }

  get isAsleep(): boolean {
    return this.#process?.isStopped ?? false;
  }

  /** @returns why it did not begin, if it did not: where the shelf is away and nothing is kept, it cannot */
  async begin(): Promise<string | undefined> {
    const process = new Process(this.machine);
    process.ahead = world.oneOf([0, 0, 3_600_000, -86_400_000]);
    this.#process = process;
    try {
      const options = { keys: publicKeys, lastGood: "/var/flags" };
      const flags = await world.as(process, () => followFlags(this.#stand.following(), options));
      this.#flags = flags;
      flags.on("change", ({ summary }) => {
        this.#say(summary);
        world.mustHold(() => this.check());
      });
      flags.on("problem", ({ message }) => this.#say(message));
      flags.on("rejected", ({ summary }) => this.#say(summary));
      this.check();
      return undefined;
    } catch (error) {
      return (error as Error).message;
    }
  }

  #say(what: string): void {
    world.say(`${this.machine}: ${what}`);
  }

  kill(): void {
    if (this.#process) world.kill(this.#process);
    this.#flags = undefined;
  }

  /** Its power goes, with whatever was not on the disk. */
  losePower(): void {
    this.kill();
    diskOf(this.machine).losePower();
  }

  sleep(milliseconds: number): void {
    if (this.#process) world.stop(this.#process, milliseconds);
  }

  wake(): void {
    if (this.#process) world.wake(this.#process);
  }

  jump(milliseconds: number): void {
    if (this.#process) this.#process.ahead += milliseconds;
  }

  /** @returns what it has left open */
  async close(): Promise<string[]> {
    const [process, flags] = [this.#process!, this.#flags];
    if (!flags) return [];
    await world.as(process, () => flags.close());
    this.#flags = undefined;
    return [...process.open].map((each) => each.constructor.name);
  }

  /** @throws if what it gives is not what stands under the numbers that it names, or is older than what it gave */
  check(): void {
    const flags = this.#flags;
    if (!flags) return;
    this.checks++;
    const { origin } = flags;
    if (origin.kind !== "shelf") throw new Error(`${this.machine} gives what comes from ${origin.kind}`);
    const { edition, stops } = origin;
    const list = this.#stand.lists("edition").get(edition);
    if (list === undefined) throw new Error(`${this.machine} gives edition ${edition}, which is not there`);
    const { token, stopped } = heldBy(list);
    const stoppedNow = stoppedBy(this.#stand.lists("stops").get(stops));
    if (stops > 0 && !this.#stand.lists("stops").has(stops)) throw new Error(`list ${stops} is not there`);
    const found = [flags.value("left", {}), flags.value("right", {})];
    if (found.some((value) => value !== token))
      throw new Error(`${this.machine} gives ${found} under edition ${edition}, which holds ${token}`);
    for (const name of switches) {
      const expected = !(stoppedNow.has(name) || name === stopped);
      if (flags.value(name, {}) !== expected)
        throw new Error(`${this.machine}: ${name} is ${!expected} under edition ${edition} and stops ${stops}`);
    }
    this.#mustNotBeOlder(edition, stops);
    world.note(`${this.machine} ${edition} ${stops}`);
  }

  #mustNotBeOlder(edition: number, stops: number): void {
    if (stops < this.#seen.stops) throw new Error(`${this.machine} goes from stops ${this.#seen.stops} to ${stops}`);
    if (edition < this.#seen.edition)
      throw new Error(`${this.machine} goes from edition ${this.#seen.edition} to ${edition}`);
    this.#seen = { edition, stops };
  }

  /** @throws if it does not give the newest of everything, or says that it is not well */
  mustBeNewest(what: "stops" | "everything"): void {
    this.check();
    const { stops, edition } = this.#seen;
    const lists = (name: "stops" | "edition") => newestOf(this.#stand.lists(name));
    if (stops !== lists("stops")) throw new Error(`${this.machine} gives stops ${stops} of ${lists("stops")}`);
    if (what === "stops") return;
    if (edition !== lists("edition"))
      throw new Error(`${this.machine} gives edition ${edition} of ${lists("edition")}`);
    const { sound, problems } = this.#flags!.health();
    if (!sound) throw new Error(`${this.machine} is not sound: ${JSON.stringify(problems)}`);
  }
}
