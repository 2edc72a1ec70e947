import type { SentDocument, SetAnswer } from "../../desk/index.ts";
import { type IdLookup, IdSet } from "../../ids/index.ts";
import { FlagSet } from "../../judge/index.ts";
import { type Definitions, listedAs } from "../../model/index.ts";
import { readDefinitions } from "../../reading/index.ts";
import type { Document } from "../../source/index.ts";

/** The ids of a list that is too long to be sent: what has been asked of it is known, everything else is not in it. */
class AskedList implements IdLookup {
  readonly size: number;
  readonly known = new Map<string, boolean>();

  constructor(size: number) {
    this.size = size;
  }

  has(id: string): boolean {
    return this.known.get(id) ?? false;
  }

  few(): undefined {
    return undefined;
  }
}

/** One version of the definitions, read in the browser. */
export class ReadSet {
  readonly version: string;
  readonly broken: boolean;
  readonly errors: number;
  /** Undefined where there is nothing that could be used. */
  readonly definitions: Definitions | undefined;
  readonly #flagSets = new Map<string | undefined, FlagSet>();

  constructor(answer: SetAnswer) {
    this.version = answer.version;
    this.broken = answer.broken;
    this.errors = answer.errors;
    const lists = new Map(
      answer.lists.map(({ file, column, size, digest, ids }) => [
        keyOf({ file, column }),
        { ids: ids ? IdSet.from(ids) : new AskedList(size), digest },
      ]),
    );
    const reading = readDefinitions(answer.documents.map(documentOf), {
      lists: (request) => lists.get(keyOf(request)) ?? { fault: { code: "list-missing", message: "It was not sent." } },
      suspended: answer.suspended && documentOf(answer.suspended),
      alreadyChecked: true,
    });
    this.definitions = answer.documents.length > 0 ? reading.definitions : undefined;
  }

  /** The set compiled for an environment, once. */
  flagSet(environment: string | undefined): FlagSet {
    let set = this.#flagSets.get(environment);
    if (!set) {
      set = new FlagSet(this.definitions!, environment);
      this.#flagSets.set(environment, set);
    }
    return set;
  }

  /** The long lists whose answer for an id is not known yet. */
  unknown(idAt: (path: readonly string[]) => string | undefined): { cohort: string; id: string }[] {
    const found: { cohort: string; id: string }[] = [];
    for (const cohort of this.definitions?.cohorts.values() ?? []) {
      if (cohort.kind !== "list" || !(cohort.ids instanceof AskedList)) continue;
      const id = idAt(cohort.of);
      if (id !== undefined && !cohort.ids.known.has(listedAs(cohort, id))) found.push({ cohort: cohort.name, id });
    }
    return found;
  }

  /** Takes in what the desk said of long lists. */
  learn(answers: readonly { readonly cohort: string; readonly id: string; readonly listed: boolean }[]): void {
    for (const { cohort: name, id, listed } of answers) {
      const cohort = this.definitions?.cohorts.get(name);
      if (cohort?.kind === "list" && cohort.ids instanceof AskedList)
        cohort.ids.known.set(listedAs(cohort, id), listed);
    }
  }
}

function keyOf({ file, column }: { readonly file: string; readonly column?: string | undefined }): string {
  return JSON.stringify([file, column ?? null]);
}

function documentOf({ file, data, spellings }: SentDocument): Document {
  return { file, data, spellings: new Map(spellings), unchanging: true };
}
