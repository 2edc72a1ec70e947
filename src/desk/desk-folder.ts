import { basename, resolve } from "node:path";
import { checkDefinitions } from "../checks/index.ts";
import { type Loaded, type LocatedProblem, locateProblems, versionOf } from "../files/index.ts";
import { type Definitions, joinedStops } from "../model/index.ts";
import { CurrentFolder } from "./current-folder.ts";
import { DeskFault } from "./desk-fault.ts";
import { Drafts } from "./drafts.ts";
import { EventStreams } from "./event-streams.ts";
import type { DeskOptions } from "./options.ts";
import { PeopleFiles } from "./people-files.ts";
import type { CurrentEvent, Visitor } from "./protocol.ts";
import { Recorder } from "./record.ts";
import { ShelfStopsView } from "./shelf-stops.ts";
import { ShelfView } from "./shelf-view.ts";
import { Sources, type Version } from "./sources.ts";
import { Turns } from "./turns.ts";
import { type WorkedDraft, WorkedDrafts } from "./worked-draft.ts";

type FolderOptions = Pick<DeskOptions<never>, "folder" | "people" | "drafts" | "record" | "shelf" | "keys">;

/** A definition folder as a desk shows it: what stands, what stood, who listens. */
export class DeskFolder {
  readonly people: PeopleFiles;
  readonly streams = new EventStreams();
  readonly turns = new Turns();
  readonly drafts: Drafts;
  readonly recorder: Recorder;
  readonly shelf: ShelfView | undefined;
  readonly keys: FolderOptions["keys"];
  readonly #stops: ShelfStopsView | undefined;
  readonly #folder: string;
  #opening: Promise<CurrentFolder> | undefined;
  #standing: CurrentFolder | undefined;
  #sources: Sources | undefined;
  #workedDrafts: WorkedDrafts | undefined;
  #closed = false;

  constructor(options: FolderOptions) {
    const { folder, people = [], drafts } = options;
    this.#folder = resolve(folder);
    this.people = new PeopleFiles(people);
    this.drafts = new Drafts(this.#folder, drafts);
    this.recorder = new Recorder({ ...options, folder: this.#folder });
    this.shelf = ShelfView.of(options);
    this.keys = options.keys;
    const { stopsAt } = this.recorder;
    this.#stops = stopsAt && new ShelfStopsView(stopsAt.shelf, options.keys);
  }

  /** The folder's name, for people. */
  get called(): string {
    return basename(this.#folder);
  }

  /** The folder is read when it is first asked for. */
  async standing(): Promise<CurrentFolder> {
    if (!this.#opening) {
      this.#opening = CurrentFolder.open(this.#folder);
      this.#opening.catch(() => {
        this.#opening = undefined;
      });
    }
    const standing = await this.#opening;
    this.#standing = standing;
    this.#sources ??= new Sources(standing, this.shelf);
    if (this.#closed) await standing.close();
    return standing;
  }

  /** @throws {DeskFault} where there is no such version */
  async version(by: string, { name }: Visitor): Promise<Version> {
    const standing = await this.standing();
    if (by !== "draft" && by !== "files") return this.#sources!.version(by);
    await this.#stops?.look();
    if (by === "files") return this.#withStops(standing);
    const { loaded } = (await this.worked(name)).work;
    const suspensions = loaded.suspensions ?? standing.suspensions;
    return this.#withStops({ version: versionOf(loaded.content), loaded, good: standing.good, suspensions });
  }

  /** What is stopped at the shelf goes with the definitions, wherever they come from. */
  #withStops({ version, loaded, good, suspensions = new Map() }: Version): Version {
    const suspended = this.#stops ? joinedStops(suspensions, this.#stops.suspended) : suspensions;
    return { version: this.#versionWithStops(version), loaded, good, suspensions: suspended };
  }

  #versionWithStops(version: string): string {
    return this.#stops && this.#stops.number > 0 ? `${version}+${this.#stops.number}` : version;
  }

  /** Looks at the stops of the shelf, after a change of one's own. */
  async refreshStops(): Promise<void> {
    await this.#stops?.refresh();
  }

  /** Somebody's draft, worked out on the files as they stand. */
  async worked(name: string): Promise<WorkedDraft> {
    const standing = await this.standing();
    this.#workedDrafts ??= new WorkedDrafts(standing, this.drafts);
    return this.#workedDrafts.of(name);
  }

  /** Reads the files now, after a write of one's own. */
  async refresh(): Promise<void> {
    await (await this.standing()).refresh();
  }

  /** A version that can be judged by, or the one before it that could. @throws {DeskFault} where there is none */
  async usable(by: string, visitor: Visitor): Promise<Loaded & { readonly definitions: Definitions }> {
    const { loaded, good } = await this.version(by, visitor);
    const found = loaded.definitions ? loaded : good;
    if (found?.definitions) return found as Loaded & { readonly definitions: Definitions };
    throw new DeskFault(409, "The definitions cannot be used as they are.", "see what is wrong");
  }

  /** The problems that `iudex check` finds at an instant. */
  async problems(loaded: Loaded, at: number): Promise<readonly LocatedProblem[]> {
    if (!loaded.definitions) return loaded.problems;
    return locateProblems(loaded, checkDefinitions(loaded.definitions, { at }));
  }

  async hasHistory(): Promise<boolean> {
    await this.standing();
    return (await this.#sources!.git()) !== undefined;
  }

  async event({ name }: Visitor): Promise<CurrentEvent> {
    const { loaded, version } = await this.standing();
    const { number } = await this.drafts.of(name).catch(() => ({ number: 0 }));
    return { version: this.#versionWithStops(version), broken: loaded.definitions === undefined, draft: number };
  }

  listen(told: () => void): () => void {
    const listened = [this.#standing!, this.drafts, ...(this.#stops ? [this.#stops] : [])];
    const silences = listened.map((each) => each.listen(told));
    return () => {
      for (const silence of silences) silence();
    };
  }

  async close(): Promise<void> {
    this.#closed = true;
    this.streams.close();
    this.#stops?.close();
    await this.#opening?.then((standing) => standing.close());
  }
}
