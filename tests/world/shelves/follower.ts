import type { Flags } from "../../../src/flags/index.ts";
import { followFlags } from "../../../src/follow/index.ts";
import { type Process, world } from "../machine/clock.ts";
import { Service } from "../service.ts";
import { publicKeys } from "./keys.ts";
import type { ShelfStand } from "./stand.ts";
import { heldBy, newestOf, stoppedBy, switches } from "./truth.ts";

/** A service that follows a shelf, compared with what stands on the shelf. */
export class Follower extends Service {
  readonly #stand: ShelfStand;
  /** The highest numbers that the service has given, over all its lives. */
  #seen = { edition: 0, stops: 0 };

  constructor(machine: string, stand: ShelfStand) {
    super(machine);
    this.#stand = stand;
  }

  protected open(process: Process): Promise<Flags<undefined>> {
    process.ahead = world.oneOf([0, 0, 3_600_000, -86_400_000]);
    return followFlags(this.#stand.following(), { keys: publicKeys, lastGood: "/var/flags" });
  }

  /** @throws if what it gives is not what stands under the numbers that it names, or is older than what it gave */
  check(): void {
    const { flags } = this;
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
    const { sound, problems } = this.flags!.health();
    if (!sound) throw new Error(`${this.machine} is not sound: ${JSON.stringify(problems)}`);
  }
}
