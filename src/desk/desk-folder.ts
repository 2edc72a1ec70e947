import { basename, resolve } from "node:path";
import { checkDefinitions } from "../checks/index.ts";
import { type Loaded, type LocatedProblem, locateProblems } from "../folder/index.ts";
import type { Definitions } from "../model/index.ts";
import { DeskFault } from "./desk-fault.ts";
import { EventStreams } from "./event-streams.ts";
import { PeopleFiles } from "./people-files.ts";
import { Sources, type Version } from "./sources.ts";
import { Standing } from "./standing.ts";
import type { StandingEvent, Visitor } from "./talk.ts";

/** A definition folder as a desk shows it: what stands, what stood, who listens. */
export class DeskFolder {
  readonly people: PeopleFiles;
  readonly streams = new EventStreams();
  readonly #folder: string;
  #opening: Promise<Standing> | undefined;
  #standing: Standing | undefined;
  #sources: Sources | undefined;
  #closed = false;

  constructor(folder: string, people: readonly string[]) {
    this.#folder = resolve(folder);
    this.people = new PeopleFiles(people);
  }

  /** The folder's name, for people. */
  get called(): string {
    return basename(this.#folder);
  }

  /** The folder is read when it is first asked for. */
  async standing(): Promise<Standing> {
    if (!this.#opening) {
      this.#opening = Standing.open(this.#folder);
      this.#opening.catch(() => {
        this.#opening = undefined;
      });
    }
    const standing = await this.#opening;
    this.#standing = standing;
    this.#sources ??= new Sources(standing);
    if (this.#closed) await standing.close();
    return standing;
  }

  /** @throws {DeskFault} where there is no such version */
  async version(by: string): Promise<Version> {
    await this.standing();
    return this.#sources!.version(by);
  }

  /** A version that can be judged by, or the one before it that could. @throws {DeskFault} where there is none */
  async usable(by: string): Promise<Loaded & { readonly definitions: Definitions }> {
    const { loaded, good } = await this.version(by);
    const found = loaded.definitions ? loaded : good;
    if (found?.definitions) return found as Loaded & { readonly definitions: Definitions };
    throw new DeskFault(409, "The definitions cannot be used as they are.", "see what is wrong");
  }

  /** What `iudex check` finds now. */
  async problems(loaded: Loaded): Promise<readonly LocatedProblem[]> {
    if (!loaded.definitions) return loaded.problems;
    return locateProblems(loaded, checkDefinitions(loaded.definitions, { at: Date.now() }));
  }

  async hasHistory(): Promise<boolean> {
    await this.standing();
    return (await this.#sources!.git()) !== undefined;
  }

  event(_visitor: Visitor): StandingEvent {
    const { loaded, version } = this.#standing!;
    return { version, broken: loaded.definitions === undefined, draft: 0 };
  }

  listen(told: () => void): () => void {
    return this.#standing!.listen(told);
  }

  async close(): Promise<void> {
    this.#closed = true;
    this.streams.close();
    await this.#opening?.then((standing) => standing.close());
  }
}
