import { type Signal, signal } from "@preact/signals";
import type { SentDocument, SetAnswer } from "../../desk/index.ts";
import { IdSet } from "../../ids/index.ts";
import { FlagSet } from "../../judge/index.ts";
import { type Definitions, listedAs } from "../../model/index.ts";
import { readDefinitions } from "../../reading/index.ts";
import type { Document } from "../../source/index.ts";
import { LongList, type OpenId, type Supposed, suppose } from "./long-list.ts";

/** How far looking a person up in the long lists has come. */
export type Lookup =
  | { readonly state: "looking" | "done" }
  | { readonly state: "failed"; readonly reason: string; again(): void };

/** One version of the definitions, read in the browser. */
export class ReadSet {
  readonly version: string;
  readonly broken: boolean;
  readonly errors: number;
  /** Undefined where there is nothing that could be used. */
  readonly definitions: Definitions | undefined;
  readonly lookup: Signal<Lookup> = signal({ state: "done" });
  /** People that could not be looked up. */
  readonly left = new Set<Readonly<Record<string, unknown>>>();
  readonly #flagSets = new Map<string | undefined, FlagSet>();

  #open: OpenId | undefined;
  /** How often something was learnt: what was drawn before is drawn again. */
  readonly #learnt = signal(0);

  constructor(answer: SetAnswer) {
    const notKnown = (open: OpenId) => {
      this.#open ??= open;
    };
    this.version = answer.version;
    this.broken = answer.broken;
    this.errors = answer.errors;
    const lists = new Map(
      answer.lists.map(({ file, column, size, digest, ids }) => [
        keyOf({ file, column }),
        { ids: ids ? IdSet.from(ids) : new LongList(size, notKnown), digest },
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

  /** What work that judges comes to, whatever the long lists hold that have not been looked through. */
  suppose<T>(work: () => T, isSame: (one: T, other: T) => boolean): Supposed<T> {
    const firstOpen = () => {
      const open = this.#open;
      this.#open = undefined;
      return open;
    };
    void this.#learnt.value;
    firstOpen();
    return suppose(work, firstOpen, isSame);
  }

  /** The cohort that a list belongs to. */
  cohortOf(list: LongList): string {
    const cohorts = [...this.definitions!.cohorts.values()];
    return cohorts.find((cohort) => cohort.kind === "list" && cohort.ids === list)!.name;
  }

  /** The long lists whose answer for an id is not known yet. */
  unknown(idAt: (path: readonly string[]) => string | undefined): { cohort: string; id: string }[] {
    const found: { cohort: string; id: string }[] = [];
    for (const cohort of this.definitions?.cohorts.values() ?? []) {
      if (cohort.kind !== "list" || !(cohort.ids instanceof LongList)) continue;
      const id = idAt(cohort.of);
      if (id !== undefined && !cohort.ids.known.has(listedAs(cohort, id))) found.push({ cohort: cohort.name, id });
    }
    return found;
  }

  /** Takes in what the desk said of long lists. */
  learn(answers: readonly { readonly cohort: string; readonly id: string; readonly listed: boolean }[]): void {
    for (const { cohort: name, id, listed } of answers) {
      const cohort = this.definitions?.cohorts.get(name);
      if (cohort?.kind === "list" && cohort.ids instanceof LongList) cohort.ids.known.set(listedAs(cohort, id), listed);
    }
    this.#learnt.value++;
  }
}

function keyOf({ file, column }: { readonly file: string; readonly column?: string | undefined }): string {
  return JSON.stringify([file, column ?? null]);
}

function documentOf({ file, data, spellings }: SentDocument): Document {
  return { file, data, spellings: new Map(spellings), unchanging: true };
}
