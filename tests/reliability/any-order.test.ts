import { mkdir, mkdtemp, rename, rm, writeFile } from "node:fs/promises";
import { tmpdir } from "node:os";
import { join } from "node:path";
import fc from "fast-check";
import { type Flags, followFlags } from "iudex";
import { describe, expect, it, type TestContext } from "vitest";
import { runs } from "../support/runs.ts";
import { sleep } from "../support/waiting.ts";

// Good saves and bad ones, stops, a folder that is away, going back and restarts, in any order, against a model in which
// each of them is a line or two.

const names = ["a", "b", "c"] as const;
type Name = (typeof names)[number];

/** What stands in a file: a number by which its flag can be told, or nothing that can be used. */
type Text = number | "broken";

type Step =
  | { readonly kind: "save"; readonly file: Name; readonly text: Text }
  | { readonly kind: "remove"; readonly file: "b" | "c" }
  | { readonly kind: "list"; readonly text: "A-1" | "B-1" | "broken" }
  | { readonly kind: "suspend"; readonly flags: readonly Name[] | "broken" | undefined }
  | { readonly kind: "local"; readonly flags: readonly Name[] | undefined }
  | { readonly kind: "move" | "back" | "restart" };

const file = fc.constantFrom(...names);
const some = fc.subarray([...names]);
const steps: fc.Arbitrary<Step> = fc.oneof(
  {
    weight: 4,
    arbitrary: fc.record({ kind: fc.constant("save" as const), file, text: fc.integer({ min: 1, max: 5 }) }),
  },
  {
    weight: 1,
    arbitrary: fc.record({ kind: fc.constant("save" as const), file, text: fc.constant("broken" as const) }),
  },
  { weight: 1, arbitrary: fc.record({ kind: fc.constant("remove" as const), file: fc.constantFrom("b", "c") }) },
  {
    weight: 2,
    arbitrary: fc.record({ kind: fc.constant("list" as const), text: fc.constantFrom("A-1", "B-1", "broken") }),
  },
  {
    weight: 3,
    arbitrary: fc.record({
      kind: fc.constant("suspend" as const),
      flags: fc.oneof(some, fc.constantFrom("broken" as const, undefined)),
    }),
  },
  {
    weight: 1,
    arbitrary: fc.record({ kind: fc.constant("local" as const), flags: fc.oneof(some, fc.constant(undefined)) }),
  },
  { weight: 4, arbitrary: fc.record({ kind: fc.constantFrom("move" as const, "back" as const, "restart" as const) }) },
);

/** What the files say together. */
interface Content {
  readonly numbers: Readonly<Partial<Record<Name, number>>>;
  readonly list: string;
}

/** What stands in the local overrides: flags, and a number by which it can be told that it was read. */
interface Local {
  readonly flags: readonly Name[];
  readonly stamp: number;
}

const noLocal: Local = { flags: [], stamp: 0 };

/** What stands on the disk, and what must be in force because of it. */
class Model {
  readonly texts: Partial<Record<Name, Text>> = { a: 1, b: 1 };
  list: "A-1" | "B-1" | "broken" = "A-1";
  suspended: readonly Name[] | "broken" | undefined;
  local: Local | undefined;
  isAway = false;

  files: Content = { numbers: { a: 1, b: 1 }, list: "A-1" };
  inForce = this.files;
  stopped: readonly Name[] = [];
  /** What was stopped when the files could be taken last. */
  taken: readonly Name[] = [];
  overridden: Local = noLocal;
  hasGoneBack = false;

  /** What can be used of what stands there comes into force; of the rest nothing does. */
  look(): void {
    if (this.isAway) return;
    const content = this.#content();
    if (this.suspended !== "broken") this.stopped = this.#stops(this.suspended ?? [], content !== undefined);
    this.overridden = this.local ?? noLocal;
    if (content === undefined) return;
    this.taken = this.stopped;
    const isNews = JSON.stringify(content) !== JSON.stringify(this.files);
    this.files = content;
    if (this.hasGoneBack && !isNews) return;
    this.inForce = content;
    this.hasGoneBack = false;
  }

  /** Where the files cannot be taken and a stop is of a flag they did not know, it may be a new name: no other stop ends. */
  #stops(now: readonly Name[], isTaken: boolean): readonly Name[] {
    const isKnown = (name: Name) => this.files.numbers[name] !== undefined;
    if (isTaken || now.every((name) => isKnown(name) || this.taken.includes(name))) return now;
    return names.filter((name) => now.includes(name) || (this.stopped.includes(name) && isKnown(name)));
  }

  /** A new process knows what was kept, and reads what there is. */
  restart(): void {
    this.hasGoneBack = false;
    this.inForce = this.files;
    this.overridden = noLocal;
    this.look();
  }

  #content(): Content | undefined {
    const { list } = this;
    const numbers: Partial<Record<Name, number>> = {};
    for (const name of names) {
      const text = this.texts[name];
      if (text === "broken" || list === "broken") return undefined;
      if (text !== undefined) numbers[name] = text;
    }
    return { numbers, list };
  }

  /** What each flag gives to those on either list, and to nobody in particular. */
  answers(): Readonly<Record<Name, readonly unknown[]>> {
    return each((name) => {
      const number = this.inForce.numbers[name];
      if (number === undefined) return people.map(() => undefined);
      if (this.stopped.includes(name)) return people.map(() => safe(number));
      if (this.overridden.flags.includes(name)) return people.map(() => overriding);
      return people.map((id) => (id === this.inForce.list ? inList(number) : number));
    });
  }
}

const people = ["A-1", "B-1", "nobody"];
const safe = (number: number) => number * 1_000;
const inList = (number: number) => number * 1_000 + 7;
const overriding = -1;

function each<T>(of: (name: Name) => T): Readonly<Record<Name, T>> {
  return Object.fromEntries(names.map((name) => [name, of(name)])) as Record<Name, T>;
}

function textOf(name: Name, text: Text): string {
  if (text === "broken") return "flags: [";
  const shared = `environments: { here: { local-overrides: true } }\ncohorts: { listed: { of: id, file: ids.txt } }\n`;
  // A flag that is there and never stopped shows which overrides were read.
  const stamp = name === "a" ? "  stamp: { safe: 0 }\n" : "";
  const flag = `{ safe: ${safe(text)}, rules: [{ when: "cohort:listed", give: ${inList(text)} }], otherwise: ${text} }`;
  return `iudex: 1\n${name === "a" ? shared : ""}flags:\n  ${name}: ${flag}\n${stamp}`;
}

/** A service that follows a folder, and whoever does things to that folder. */
class Stage {
  readonly #home: string;
  readonly #model = new Model();
  #flags!: Flags;
  /** What stood in each revision that came into force, and what was stopped in it. */
  readonly #known = new Map<string, { readonly content: Content; readonly stopped: readonly Name[] }>();
  #stamp = 0;

  constructor(home: string) {
    this.#home = home;
  }

  async begin(): Promise<void> {
    await mkdir(this.#folder);
    await this.#put("ids.txt", "A-1\n");
    for (const name of ["a", "b"] as const) await this.#put(`${name}.yaml`, textOf(name, 1));
    await this.#open();
  }

  close(): Promise<void> {
    return this.#flags.close();
  }

  get #folder(): string {
    return join(this.#home, this.#model.isAway ? "away" : "flags");
  }

  async #open(): Promise<void> {
    this.#flags = await followFlags(join(this.#home, "flags"), {
      environment: "here",
      lastGood: join(this.#home, "kept"),
      watch: { quiet: 40, longest: 400, poll: 100 },
    });
  }

  /** Written aside and renamed, so that nobody sees a file that is gone for a moment. */
  async #put(name: string, text: string | undefined): Promise<void> {
    const path = join(this.#folder, name);
    if (text === undefined) return rm(path, { force: true });
    await writeFile(join(this.#home, "aside"), text);
    await rename(join(this.#home, "aside"), path);
  }

  async take(step: Step): Promise<void> {
    const model = this.#model;
    switch (step.kind) {
      case "save":
        model.texts[step.file] = step.text;
        await this.#put(`${step.file}.yaml`, textOf(step.file, step.text));
        break;
      case "remove":
        delete model.texts[step.file];
        await this.#put(`${step.file}.yaml`, undefined);
        break;
      case "list":
        model.list = step.text;
        await this.#put("ids.txt", step.text === "broken" ? "" : `${step.text}\n`);
        break;
      case "suspend":
        model.suspended = step.flags;
        await this.#put("suspended.yaml", step.flags && stopOf(step.flags));
        break;
      case "local":
        model.local = step.flags && { flags: step.flags, stamp: ++this.#stamp };
        await this.#put("overrides.local.yaml", model.local && localOf(model.local));
        break;
      case "move": {
        const from = this.#folder;
        model.isAway = !model.isAway;
        await rename(from, this.#folder);
        break;
      }
      case "back":
        this.#goBack();
        break;
      case "restart":
        await this.#flags.close();
        await this.#open();
        model.restart();
        break;
    }
    model.look();
  }

  #goBack(): void {
    const known = this.#flags.history.filter(({ revision }) => this.#known.has(revision)).at(-1);
    if (!known) return;
    this.#flags.goBackTo(known.revision);
    this.#model.inForce = this.#known.get(known.revision)!.content;
    this.#model.hasGoneBack = true;
  }

  /** Comes to what the model says, and stays there. */
  async settles(steps: readonly Step[]): Promise<void> {
    const { inForce, stopped, overridden } = this.#model;
    const wanted = { state: { content: inForce, stopped }, stamp: overridden.stamp, answers: this.#model.answers() };
    const seen = () => ({
      // A revision that was not there before is the new one.
      state: this.#known.get(this.#flags.revision) ?? wanted.state,
      stamp: this.#flags.value("stamp"),
      answers: each((name) => people.map((id) => this.#flags.value(name, { id }))),
    });
    const message = JSON.stringify(steps);
    await expect.poll(seen, { message, timeout: 20_000 }).toEqual(wanted);
    await sleep(200);
    expect(seen(), message).toEqual(wanted);
    this.#known.set(this.#flags.revision, wanted.state);
  }
}

function stopOf(flags: readonly Name[] | "broken"): string {
  return flags === "broken" ? "iudex: 1\nsuspended: { a" : `iudex: 1\nsuspended: { ${flags.map((f) => `${f}: {}`)} }\n`;
}

function localOf({ flags, stamp }: Local): string {
  return `iudex: 1\noverrides: { ${[`stamp: ${stamp}`, ...flags.map((name) => `${name}: ${overriding}`)]} }\n`;
}

async function plays(all: readonly Step[], test: TestContext): Promise<void> {
  const home = await mkdtemp(join(tmpdir(), "iudex-test-"));
  const stage = new Stage(home);
  await stage.begin();
  test.onTestFinished(async () => {
    await stage.close();
    await rm(home, { recursive: true, force: true });
  });
  for (const [i, step] of all.entries()) {
    await stage.take(step);
    await stage.settles(all.slice(0, i + 1));
  }
}

describe("whatever happens to a folder, in any order", () => {
  it("what can be used is in force, a stop holds, and a restart changes nothing", async (test) => {
    const plots = fc.sample(fc.array(steps, { minLength: 25, maxLength: 25 }), runs(10));
    // Side by side: nearly all of it is waiting.
    await Promise.all(plots.map((each) => plays(each, test)));
  });
});
