// What services of all scenarios have in common: a process on a machine, its flags, and what befalls both.
import type { Flags } from "../../src/flags/index.ts";
import { Process, world } from "./machine/clock.ts";
import { soundDisk } from "./machine/disk.ts";
import { diskOf } from "./machine/fs.ts";

export abstract class Service {
  readonly machine: string;
  #process: Process | undefined;
  #flags: Flags<undefined> | undefined;
  /** How often the values of the service were compared with what they must be. */
  checks = 0;

  constructor(machine: string) {
    this.machine = machine;
  }

  /** The flags, while the service runs. */
  get flags(): Flags<undefined> | undefined {
    return this.#flags;
  }

  get isUp(): boolean {
    return this.#flags !== undefined;
  }

  get isAsleep(): boolean {
    return this.#process?.isStopped ?? false;
  }

  /** Opens the flags, as the process of the service. */
  protected abstract open(process: Process): Promise<Flags<undefined>>;

  /** @throws if the service gives a value that it must not give */
  abstract check(): void;

  /** @returns why the service did not start, if it did not */
  async begin(): Promise<string | undefined> {
    const process = new Process(this.machine);
    this.#process = process;
    try {
      const flags = await world.as(process, () => this.open(process));
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

  #told(event: string, text: string): void {
    world.say(`${this.machine}: ${event}: ${text}`);
    world.mustHold(() => this.check());
  }

  kill(): void {
    if (this.#process) world.kill(this.#process);
    this.#flags = undefined;
  }

  /** Everything that was not yet on the disk is lost. */
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

  /** Moves the wall clock. */
  jump(milliseconds: number): void {
    if (this.#process) this.#process.ahead += milliseconds;
  }

  failDisk(): void {
    const faults = world.oneOf<object>([{ full: true }, { refuses: "writing" }, { slow: 3_000 }]);
    Object.assign(diskOf(this.machine).faults, faults);
  }

  heal(): void {
    Object.assign(diskOf(this.machine).faults, soundDisk);
    this.wake();
  }

  /** @throws if something is left open */
  async close(): Promise<void> {
    const [process, flags] = [this.#process!, this.#flags];
    if (!flags) return;
    await world.as(process, () => flags.close());
    this.#flags = undefined;
    const left = [...process.open].map((each) => each.constructor.name);
    if (left.length > 0) throw new Error(`${this.machine} has left open: ${left.join(", ")}`);
  }
}

/** Ends all faults of the machines, waits, and starts each service that does not run. @throws if one does not start */
export async function healAll(services: readonly Service[], milliseconds: number): Promise<void> {
  for (const service of services) service.heal();
  await world.sleep(milliseconds);
  for (const service of services) {
    const why = service.isUp ? undefined : await service.begin();
    if (why !== undefined) throw new Error(`${service.machine} does not start: ${why}`);
  }
  await world.sleep(milliseconds);
}
