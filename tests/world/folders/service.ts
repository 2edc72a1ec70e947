import type { Flags } from "../../../src/flags/index.ts";
import { followFlags } from "../../../src/follow/index.ts";
import { Process, world } from "../machine/clock.ts";
import { diskOf } from "../machine/fs.ts";
import { crew, flagsInOneFile, left, overrides, right, type SavedFile, stops, switches } from "./truth.ts";

/** So many states back somebody may still be. */
const lately = 40;

/** A service that follows a folder, held against what the files held. */
export class Service {
  readonly machine: string;
  readonly #folder: string;
  readonly #isTurned: boolean;
  #process: Process | undefined;
  #flags: Flags<undefined> | undefined;
  /** The highest token that it has given of each file, in this life. */
  readonly #seen = new Map<SavedFile, number>();
  checks = 0;

  /** @param isTurned whether all files change at once */
  constructor(machine: string, folder: string, isTurned: boolean) {
    this.machine = machine;
    this.#folder = folder;
    this.#isTurned = isTurned;
  }

  get isUp(): boolean {
    return this.#flags !== undefined;
  }

  get isAsleep(): boolean {
    return this.#process?.isStopped ?? false;
  }

  /** @returns why it did not begin, if it did not */
  async begin(): Promise<string | undefined> {
    const process = new Process(this.machine);
    this.#process = process;
    this.#seen.clear();
    try {
      const options = { environment: "local", lastGood: "/var/flags" };
      const flags = await world.as(process, () => followFlags(this.#folder, options));
      this.#flags = flags;
      for (const event of ["change", "rejected", "recovered"] as const)
        flags.on(event, ({ summary }: { readonly summary: string }) => this.#told(event, summary));
      flags.on("problem", ({ message }) => this.#told("problem", message));
      this.check();
      return undefined;
    } catch (error) {
      return (error as Error).message;
    }
  }

  #told(event: string, what: string): void {
    world.say(`${this.machine}: ${event}: ${what}`);
    world.mustHold(() => this.check());
  }

  kill(): void {
    if (this.#process) world.kill(this.#process);
    this.#flags = undefined;
  }

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

  /** @returns what it has left open */
  async close(): Promise<string[]> {
    const [process, flags] = [this.#process!, this.#flags];
    if (!flags) return [];
    await world.as(process, () => flags.close());
    this.#flags = undefined;
    return [...process.open].map((each) => each.constructor.name);
  }

  /** The token of each file that it gives. */
  #given(flags: Flags<undefined>): Map<SavedFile, number> {
    const all = (names: readonly string[], called: string): number => {
      const values = new Set(names.map((name) => flags.value(name, {}) as number));
      if (values.size !== 1) throw new Error(`${this.machine} gives ${[...values]} of one ${called}`);
      return [...values][0]!;
    };
    const stopped = switches.reduce((bits, name, i) => bits | (flags.value(name, {}) === true ? 0 : 1 << i), 0);
    const isIn = (id: string) => flags.value("for-crew", { id }) === true;
    const lists = crew.states.slice(-lately).filter(({ token }) => isIn(`begin-${token}`) || isIn(`end-${token}`));
    if (lists.length !== 1 || !isIn(`begin-${lists[0]!.token}`) || !isIn(`end-${lists[0]!.token}`) || !isIn("C-199"))
      throw new Error(`${this.machine} gives a list that never was, of ${lists.map(({ token }) => token)}`);
    return new Map([
      [
        left,
        all(
          Array.from({ length: flagsInOneFile }, (_, i) => `left-${i}`),
          left.name,
        ),
      ],
      [right, flags.value("right", {}) as number],
      [crew, lists[0]!.token],
      [stops, stopped],
      [overrides, all(["fares", "timetable"], overrides.name)],
    ]);
  }

  /** @throws if it gives a file that never was, or an older one than it gave */
  check(): void {
    const flags = this.#flags;
    if (!flags) return;
    this.checks++;
    const given = this.#given(flags);
    if (this.#isTurned && given.get(left) !== given.get(right))
      throw new Error(`${this.machine} mixes ${given.get(left)} and ${given.get(right)}`);
    for (const [file, token] of given) {
      const at = file.states.findLastIndex((state) => state.token === token && !state.isBroken);
      const isNone = at < 0 && file === overrides && token === 0;
      if (at < 0 && !isNone) throw new Error(`${this.machine} gives ${token} of ${file.name}, which never was`);
      if (at < (this.#seen.get(file) ?? -1)) throw new Error(`${this.machine} goes back to ${token} of ${file.name}`);
      if (file !== stops) this.#seen.set(file, at);
      world.note(`${this.machine} ${file.name} ${token}`);
    }
  }

  /** @throws if it does not give the newest of all files that can be used together */
  mustBeNewest(what: readonly SavedFile[]): void {
    this.check();
    const given = this.#given(this.#flags!);
    for (const file of what)
      if (given.get(file) !== file.newest.token)
        throw new Error(`${this.machine} gives ${given.get(file)} of ${file.name}, and not ${file.newest.token}`);
  }

  mustBe(sound: boolean): void {
    const health = this.#flags!.health();
    if (health.sound !== sound)
      throw new Error(`${this.machine}: sound is ${health.sound}, ${JSON.stringify(health.problems)}`);
  }
}
