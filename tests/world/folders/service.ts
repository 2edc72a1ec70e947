import type { Flags } from "../../../src/flags/index.ts";
import { followFlags } from "../../../src/follow/index.ts";
import { world } from "../machine/clock.ts";
import { Service } from "../service.ts";
import { crew, flagsInOneFile, left, overrides, right, type SavedFile, stops, switches } from "./truth.ts";

/** So many states back somebody may still be. */
const lately = 40;

/** A service that follows a folder, compared with what the files held. */
export class FolderService extends Service {
  readonly #folder: string;
  readonly #isTurned: boolean;
  /** The newest state of each file that the service has given in this life. */
  readonly #seen = new Map<SavedFile, number>();

  /** @param isTurned true if all files change at once */
  constructor(machine: string, folder: string, isTurned: boolean) {
    super(machine);
    this.#folder = folder;
    this.#isTurned = isTurned;
  }

  protected open(): Promise<Flags<undefined>> {
    this.#seen.clear();
    return followFlags(this.#folder, { environment: "local", lastGood: "/var/flags" });
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
    const { flags } = this;
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
    const given = this.#given(this.flags!);
    for (const file of what)
      if (given.get(file) !== file.newest.token)
        throw new Error(`${this.machine} gives ${given.get(file)} of ${file.name}, and not ${file.newest.token}`);
  }

  mustBe(sound: boolean): void {
    const health = this.flags!.health();
    if (health.sound !== sound)
      throw new Error(`${this.machine}: sound is ${health.sound}, ${JSON.stringify(health.problems)}`);
  }
}
