// Services that follow a folder, people who save in it, and everything that can go wrong, drawn from a seed.
import { Process, world } from "../machine/clock.ts";
import { Disk, soundDisk } from "../machine/disk.ts";
import { mkdir, mount, writeFile } from "../machine/fs.ts";
import type { Ran } from "../ran.ts";
import { healAll } from "../service.ts";
import { save, styles, turn } from "./people.ts";
import { FolderService } from "./service.ts";
import { crew, fixed, left, overrides, right, type SavedFile, saved, stops } from "./truth.ts";

const hour = 3_600_000;

/** By when whatever was saved is in force once everything is well, and a stop at any time; milliseconds. */
const healed = 20_000;
const prompt = 3_000;

export async function followFolders(hours: number): Promise<Ran> {
  for (const file of saved) file.states.length = 0;
  return new FolderScenario().run(hours);
}

class FolderScenario {
  readonly #disk = new Disk();
  /** All files change at once, by a link that is turned; or people save one after the other. */
  readonly #isTurned = world.chance(0.25);
  readonly #services: readonly FolderService[];
  #tokens = 1;
  /** Files that somebody is saving at the moment. */
  readonly #busy = new Set<SavedFile>();
  #isFaulty = false;

  constructor() {
    this.#disk.tick = world.oneOf([1, 10, 1_000, 2_000]);
    this.#disk.ahead = world.oneOf([0, 0, -hour, hour]);
    const count = 1 + world.below(3);
    this.#services = Array.from(
      { length: count },
      (_, i) => new FolderService(`service-${i}`, "/shared/flags", this.#isTurned),
    );
  }

  async run(hours: number): Promise<Ran> {
    const begun = world.now;
    for (const { machine } of this.#services) mount(machine, "shared", this.#disk);
    mount("office", "shared", this.#disk);
    await this.#asPeople(() => this.#beginFolder());
    while (world.now - begun < hours * hour) {
      await this.#heal();
      for (let steps = 5 + world.below(15); steps > 0; steps--) await this.#step();
    }
    await this.#heal();
    for (const service of this.#services) await service.close();
    const checks = this.#services.reduce((sum, service) => sum + service.checks, 0);
    const lists = saved.reduce((sum, { states }) => sum + states.length, 0);
    return { hours: ((world.now - begun) / hour) * this.#services.length, checks, lists };
  }

  #asPeople<T>(work: () => Promise<T>): Promise<T> {
    return world.as(new Process("office"), work);
  }

  async #beginFolder(): Promise<void> {
    for (const file of [left, right, crew]) file.states.push(file.next(this.#tokens));
    stops.states.push(stops.next(0));
    overrides.states.push(overrides.next(0));
    if (this.#isTurned) return this.#turn();
    await mkdir("/shared/flags/lists", { recursive: true });
    for (const [name, text] of this.#texts()) await writeFile(`/shared/flags/${name}`, text);
  }

  #texts(): Map<string, string> {
    return new Map([["fixed.yaml", fixed], ...saved.map((file) => [file.name, file.newest.text] as const)]);
  }

  /** Where nothing could be turned, nothing was saved. */
  #turnOr(undo: () => unknown): Promise<void> {
    const failed = (error: NodeJS.ErrnoException) => {
      unlessOfDisk(error);
      undo();
    };
    return this.#asPeople(() => this.#turn()).catch(failed);
  }

  async #turn(): Promise<void> {
    await turn("/shared", "flags", this.#texts());
  }

  async #step(): Promise<void> {
    const service = world.oneOf(this.#services);
    const steps: (() => Promise<unknown> | unknown)[] = [
      () => this.#save([left]),
      () => this.#save([right]),
      () => this.#save([crew]),
      () => this.#save([crew]),
      () => this.#save([overrides]),
      () => this.#save([left, right]),
      () => this.#save([left], true),
      () => this.#stop(),
      () => this.#stop(),
      () => this.#fail(),
      () => this.#failDisk(service),
      () => service.kill(),
      () => service.losePower(),
      () => (service.isUp || this.#looksOld ? undefined : service.begin()),
      () => service.sleep(world.random() * 60_000),
    ];
    const step = world.below(steps.length);
    world.note(step);
    world.say(`step ${step} ${service.machine}`);
    if (step >= steps.length - 4) this.#isFaulty = true;
    await steps[step]!();
    world.say(`${step} done; ${JSON.stringify(this.#disk.faults)}`);
    await world.sleep(world.random() * world.oneOf([100, 1_000, 10_000, 300_000]));
    for (const each of this.#services) if (!each.isAsleep) each.check();
  }

  /** One after the other, or at the same time. */
  async #save(files: readonly SavedFile[], isBroken = false): Promise<void> {
    const token = ++this.#tokens;
    // What is saved in place and breaks off, or takes a rest, looks like a file at rest.
    const style = this.#isSteady ? world.oneOf(styles) : "aside";
    world.say(`saves ${files.map(({ name }) => name)} ${token} ${style}`);
    if (this.#isTurned) {
      const all = files.includes(left) || files.includes(right) ? [left, right] : files;
      for (const file of all) file.states.push(file.next(token, isBroken && file === left));
      return this.#turnOr(() => {
        for (const { states } of all) states.pop();
      });
    }
    const free = files.filter((file) => !this.#busy.has(file));
    for (const file of free) this.#busy.add(file);
    const saving = () =>
      Promise.all(free.map((file) => save("/shared/flags", file, file.next(token, isBroken), style)));
    const done = this.#asPeople(saving)
      .catch(unlessOfDisk)
      .finally(() => {
        for (const file of free) this.#busy.delete(file);
      });
    // Now and then other things happen while somebody is still saving.
    if (world.chance(0.5)) await done;
  }

  /** A stop does not wait for the rest of the folder, nor for its being sound. */
  async #stop(): Promise<void> {
    const wasSound = !this.#isFaulty;
    const token = world.below(16);
    const state = stops.next(token);
    if (this.#isTurned) {
      stops.states.push(state);
      await this.#turnOr(() => stops.states.pop());
    } else await this.#asPeople(() => save("/shared/flags", stops, state, "aside")).catch(unlessOfDisk);
    if (!wasSound) return;
    await world.sleep(prompt);
    for (const service of this.#services) if (service.isUp && !service.isAsleep) service.mustBeNewest([stops]);
  }

  /** A start cannot tell that somebody is saving where the clock of the disk is behind. */
  get #looksOld(): boolean {
    return this.#busy.size > 0 && this.#disk.ahead < 0;
  }

  get #isSteady(): boolean {
    const { refuses, slow } = this.#disk.faults;
    return refuses === "nothing" && slow <= 30;
  }

  #fail(): void {
    if (this.#busy.size > 0) return;
    this.#isFaulty = true;
    Object.assign(
      this.#disk.faults,
      world.oneOf<object>([
        { slow: 30 },
        { slow: 2_000 },
        { refuses: "everything" },
        { lost: 1 },
        { lost: 0.5, twice: 0.5, late: 5_000 },
      ]),
    );
  }

  #failDisk(service: FolderService): void {
    this.#isFaulty = true;
    service.failDisk();
  }

  /** Ends all faults: services that were away start, from a copy if the files are broken. */
  async #heal(): Promise<void> {
    world.say("everything is well again");
    Object.assign(this.#disk.faults, soundDisk);
    await healAll(this.#services, healed);
    this.#isFaulty = false;
    const isSound = !left.newest.isBroken;
    for (const service of this.#services) {
      service.mustBeNewest(isSound ? saved : [stops, overrides]);
      service.mustBe(isSound);
    }
    if (!isSound) await this.#save([left]);
    await world.sleep(healed);
  }
}

function unlessOfDisk(error: NodeJS.ErrnoException): void {
  if (error.code === undefined) throw error;
}
