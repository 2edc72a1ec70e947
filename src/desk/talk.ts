import type { LocatedProblem } from "../folder/index.ts";
import type { CensusResult, PartChange } from "../insight/index.ts";

/** What somebody may do at a desk: see everything; stop a flag and start it again; change the definitions. */
export type Permission = "look" | "suspend" | "change";

/** Who asks a desk, as the program that serves it knows them. */
export interface Visitor {
  /** Said with every write: as who stopped a flag, as the author of a commit. */
  readonly name: string;
  /** Without "look" nothing is answered at all. */
  readonly may: readonly Permission[];
}

/** `GET api/session`: who the page serves, and what it may show. */
export interface SessionAnswer {
  readonly name: string;
  readonly may: readonly Permission[];
  /** Goes with every request that is not a `GET`, as the header `desk-token`; it lasts as long as the process. */
  readonly token: string;
  /** The folder's name, for people. */
  readonly folder: string;
  /** The environment asked for at first. */
  readonly environment: string | undefined;
  /** The names of the files of people that can be asked for. */
  readonly people: readonly string[];
  /** True where the folder lies in a repository, so that earlier revisions can be asked for. */
  readonly hasHistory: boolean;
}

/** A file as it was read. */
export interface SentDocument {
  readonly file: string;
  readonly data: unknown;
  /** The source of scalars whose spelling matters, by JSON Pointer. */
  readonly spellings: readonly (readonly [pointer: string, source: string])[];
}

/** A list file of a cohort; the ids of a long one are not sent, but asked for one by one. */
export interface SentList {
  readonly file: string;
  readonly column: string | undefined;
  readonly size: number;
  readonly digest: string;
  readonly ids: readonly string[] | undefined;
}

/** `GET api/set`: the definitions by one version of them, for judging them in the browser. */
export interface SetAnswer {
  /** Changes whenever anything of the answer does. */
  readonly version: string;
  readonly documents: readonly SentDocument[];
  readonly suspended: SentDocument | undefined;
  readonly lists: readonly SentList[];
  /** True while the files cannot be used as they stand: the documents are those that could be used last, if any. */
  readonly broken: boolean;
  /** How many there are; `GET api/problems` tells them. */
  readonly errors: number;
}

/** `GET api/problems`: what `iudex check` finds. */
export interface ProblemsAnswer {
  readonly problems: readonly LocatedProblem[];
}

/** `POST api/listed`: whether the long lists of cohorts hold these ids. */
export interface ListedRequest {
  readonly by: string;
  readonly asked: readonly AskedId[];
  /** Whether to say where in the list it stands, which takes longer. */
  readonly where?: boolean;
}

/** An id, and the cohort whose list may hold it. */
export interface AskedId {
  readonly cohort: string;
  readonly id: string;
}

/** Whether a list holds an id. */
export interface ListedAnswer {
  readonly answers: readonly (AskedId & { readonly listed: boolean; readonly where?: string })[];
}

/** `POST api/people`: people of a file, those first whose attributes hold a text. */
export interface PeopleRequest {
  readonly file: string;
  readonly find: string;
  /** At most so many, 12 by default. */
  readonly most?: number;
}

/** Some people of a file. */
export interface PeopleAnswer {
  readonly people: readonly { readonly context: Readonly<Record<string, unknown>>; readonly line: number }[];
  /** True where the file was read to its end. */
  readonly complete: boolean;
}

/** `GET api/events`: told whenever the definitions, or this visitor's draft, are others than before. */
export interface StandingEvent {
  /** Of the files as they stand. */
  readonly version: string;
  readonly broken: boolean;
  /** Of this visitor's draft. */
  readonly draft: number;
}

/** What every answer is that is none, as RFC 9457 has it. */
export interface ProblemAnswer {
  readonly title: string;
  readonly detail?: string | undefined;
  readonly status: number;
}

/** `POST api/census`: how a file of people falls on flags. The answer is NDJSON: progress, then the counts. */
export interface CensusRequest {
  readonly by: string;
  readonly file: string;
  /** Epoch milliseconds. */
  readonly at: number;
  readonly flags: readonly string[];
  /** None where the definitions declare none. */
  readonly environments: readonly string[];
}

/** A line of that answer: how much of the file is read, from 0 to 1; the counts; or why there are none. */
export type CensusLine =
  | { readonly progress: number }
  | { readonly counts: readonly CensusResult[]; readonly contexts: number }
  | { readonly failed: string };

/** `POST api/suspend` and `POST api/reinstate`: stops a flag, or starts it again, at once. */
export interface StopRequest {
  readonly flag: string;
  /** Every one if left out. */
  readonly environment?: string;
  /** Why. */
  readonly note?: string;
}

/** What was written. */
export interface ChangedAnswer {
  readonly written: boolean;
  /** What the change means, part by part; nothing where the other files cannot be used. */
  readonly changes: readonly PartChange[];
  /** Why nothing was to be done. */
  readonly message?: string;
  /** The commit that recorded it. */
  readonly commit?: string;
}
