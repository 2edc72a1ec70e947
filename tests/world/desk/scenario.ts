// People at a desk gather drafts while its process is killed, its machine loses power and its disk refuses, drawn from a seed.
import { Drafts } from "../../../src/desk/drafts.ts";
import { Process, world } from "../machine/clock.ts";
import { soundDisk } from "../machine/disk.ts";
import { diskOf, readdir } from "../machine/fs.ts";
import type { Ran } from "../ran.ts";

const hour = 3_600_000;
const machine = "desk";
const people = ["Ylva", "Tarn", "Nils"];

/** What a draft is known to hold: the ids of its changes, joined. */
interface Known {
  /** What the person was told last. */
  told: string;
  /** What may stand instead: asked for, and not answered when the process ended; or what a loss of power brought back. */
  readonly may: Set<string>;
  /** Everything that the person was ever told. */
  readonly ever: Set<string>;
}

export async function gatherDrafts(hours: number): Promise<Ran> {
  return new DeskScenario().run(hours);
}

class DeskScenario {
  readonly #known = new Map<string, Known>(
    people.map((name) => [name, { told: "", may: new Set(), ever: new Set([""]) }]),
  );
  #process = new Process(machine);
  #drafts: Drafts | undefined;
  #checks = 0;
  #kept = 0;
  /** What was found wrong while other things went on. */
  #fault: unknown;

  async run(hours: number): Promise<Ran> {
    const begun = world.now;
    while (world.now - begun < hours * hour) await this.#step();
    this.#heal();
    await this.#hold();
    const left = (await this.#asDesk(() => readdir("/var/drafts"))).map(String);
    const strange = left.filter((name) => !/^[0-9a-f]{20}-[0-9a-f]{20}\.json$/.test(name) && !name.endsWith(".tmp"));
    if (strange.length > 0) throw new Error(`left behind: ${strange}`);
    return { hours: (world.now - begun) / hour, checks: this.#checks, lists: this.#kept };
  }

  #asDesk<T>(work: () => Promise<T>): Promise<T> {
    return world.as(this.#process, work);
  }

  /** Opened anew by each process. */
  get #open(): Drafts {
    this.#drafts ??= new Drafts("/shared/flags", "/var/drafts");
    return this.#drafts;
  }

  async #step(): Promise<void> {
    const name = world.oneOf(people);
    const steps: (() => Promise<unknown> | unknown)[] = [
      () => this.#change(name),
      () => this.#change(name),
      () => this.#change(name),
      // Two at once, of one person and of two.
      () => Promise.all([this.#change(name), this.#change(name)]),
      () => Promise.all(people.map((each) => this.#change(each))),
      () => this.#hold(),
      () => this.#kill(),
      () => this.#kill(true),
      () =>
        Object.assign(
          diskOf(machine).faults,
          world.oneOf<object>([{ full: true }, { refuses: "writing" }, { slow: 500 }]),
        ),
      () => this.#heal(),
      () => this.#heal(),
    ];
    const step = world.below(steps.length);
    world.note(step);
    world.say(`step ${step} ${name}`);
    // Whoever is killed answers nothing any more.
    const done = Promise.resolve(steps[step]!()).catch((error: unknown) => {
      this.#fault ??= error;
    });
    if (world.chance(0.7)) await Promise.race([done, world.sleep(30_000)]);
    await world.sleep(world.random() * world.oneOf([5, 1_000, 600_000]));
    if (this.#fault !== undefined) throw this.#fault;
  }

  /** Adds a change, takes one back, or throws all away. */
  async #change(name: string): Promise<void> {
    const known = this.#known.get(name)!;
    const process = this.#process;
    const drop = world.chance(0.3);
    let asked = "";
    try {
      const { steps } = await this.#asDesk(() =>
        this.#open.change(name, (before, next) => {
          const after = drop
            ? before.slice(1)
            : [...before, { id: next, change: { change: "remove-flag" as const, flag: `flag-${next}` } }];
          asked = shown(after.slice(-20));
          known.may.add(asked);
          return after.slice(-20);
        }),
      );
      if (!process.isAlive) return;
      this.#kept++;
      if (shown(steps) !== asked) throw new Error(`${name} was told ${shown(steps)} for ${asked}`);
      known.told = asked;
      known.ever.add(asked);
      known.may.delete(asked);
    } catch (error) {
      if (!/^The draft (?:cannot be kept|of \w+ cannot be read)/.test((error as Error).message)) throw error;
      // What could not be kept is not there, unless it was renamed already.
      if (process.isAlive && !(await this.#isThere(name, asked))) known.may.delete(asked);
    }
  }

  async #isThere(name: string, ids: string): Promise<boolean> {
    return shown((await this.#asDesk(() => this.#open.of(name))).steps) === ids;
  }

  #kill(losesPower = false): void {
    world.kill(this.#process);
    if (losesPower) {
      diskOf(machine).losePower();
      for (const known of this.#known.values()) for (const each of known.ever) known.may.add(each);
    }
    this.#process = new Process(machine);
    this.#drafts = undefined;
  }

  #heal(): void {
    Object.assign(diskOf(machine).faults, soundDisk);
  }

  /** @throws if somebody's draft is not what that person was told, and nothing that may stand instead */
  async #hold(): Promise<void> {
    if (JSON.stringify(diskOf(machine).faults) !== JSON.stringify(soundDisk)) return;
    for (const [name, known] of this.#known) {
      const before = known.told;
      const held = shown((await this.#asDesk(() => this.#open.of(name))).steps);
      if (known.told !== before) continue;
      this.#checks++;
      world.note(`${name} ${held}`);
      if (held !== known.told && !known.may.has(held))
        throw new Error(`the draft of ${name} holds ${held}, and was told as ${known.told}`);
    }
  }
}

function shown(steps: readonly { readonly id: number }[]): string {
  return steps.map(({ id }) => id).join(" ");
}
