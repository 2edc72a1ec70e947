import { basename } from "node:path";
import type { Definitions } from "../model/index.ts";
import { readPeople } from "../study/index.ts";
import { DeskFault } from "./desk-fault.ts";
import type { PeopleAnswer, PeopleRequest } from "./protocol.ts";

/** The files of people that a desk may read, by the names that the page knows. */
export class PeopleFiles {
  readonly #paths: ReadonlyMap<string, string>;

  constructor(paths: readonly string[]) {
    // Two files of one name are told apart by their paths.
    const isShared = (path: string) => paths.filter((each) => basename(each) === basename(path)).length > 1;
    this.#paths = new Map(paths.map((path) => [isShared(path) ? path : basename(path), path]));
  }

  get names(): readonly string[] {
    return [...this.#paths.keys()];
  }

  /** @throws {DeskFault} for a file that nobody named when the desk was opened */
  path(name: string): string {
    const path = this.#paths.get(name);
    if (path === undefined) throw new DeskFault(404, `There is no file of people “${name}” here.`);
    return path;
  }

  /** The first people whose attributes hold a text, upper and lower case alike. */
  async find({ file, find, most = 12 }: PeopleRequest, definitions: Definitions): Promise<PeopleAnswer> {
    const wanted = find.trim().toLowerCase();
    const people: PeopleAnswer["people"][number][] = [];
    const enough = new Error("enough were found");
    try {
      await readPeople(this.path(file), definitions, (context, line) => {
        if (!holdsText(context, wanted)) return;
        if (people.length === most) throw enough;
        people.push({ context: context as Record<string, unknown>, line });
      });
    } catch (error) {
      if (error !== enough) throw error;
      return { people, complete: false };
    }
    return { people, complete: true };
  }
}

function holdsText(value: unknown, wanted: string): boolean {
  if (wanted === "") return true;
  if (typeof value === "object" && value !== null)
    return Object.values(value).some((member) => holdsText(member, wanted));
  return String(value).toLowerCase().includes(wanted);
}
