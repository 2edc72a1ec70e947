import type { Change, ChangeForms, FieldForm, ReadIds } from "../edit/index.ts";
import type { LocatedProblem } from "../files/index.ts";
import type { CensusResult, PartChange, PositionCounts } from "../insight/index.ts";
import type { Noted } from "../shelf/index.ts";
import type { HistoryEntry, PeopleReach } from "../study/index.ts";

export type { Change, FieldForm };

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
  /** The time at the desk, in epoch milliseconds. */
  readonly now: number;
  /** The folder's name, for people. */
  readonly folder: string;
  /** The environment asked for at first. */
  readonly environment: string | undefined;
  /** The names of the files of people that can be asked for. */
  readonly people: readonly string[];
  /** True where the folder lies in a repository, so that earlier revisions can be asked for. */
  readonly hasHistory: boolean;
  /** Whether there are files by which it can be told what came of a flag. */
  readonly canWeigh: boolean;
  /** How the fields of changes are asked for. */
  readonly forms: ChangeForms;
  /** What the shelf is called whose editions can be asked for, where there is one. */
  readonly shelf?: string;
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
export interface CurrentEvent {
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

/** `POST api/weigh`: what came of a flag, by the groups that one of its rules made in an environment. */
export interface WeighingRequest {
  readonly flag: string;
  /** A name or a number; the only one that divides people if left out. */
  readonly rule?: string;
  readonly environment?: string;
}

/** What can be said of it, and no more. */
export interface WeighAnswer {
  /** What is compared, and whose figures they are. */
  readonly head: readonly [string, string];
  readonly measures: readonly WeighedWords[];
  /** What has to be known beside it, a sentence each. */
  readonly facts: readonly string[];
  /** The intervals, as SVG without styles of its own; nothing where nothing is compared. */
  readonly picture?: string;
}

/** One measure: the words first. */
export interface WeighedWords {
  readonly name: string;
  readonly isGuard: boolean;
  readonly says: readonly string[];
  readonly groups: readonly { readonly name: string; readonly people: number; readonly figure: string }[];
}

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
  /** The commit that recorded it, the branch on which it stands, the edition that it became. */
  readonly commit?: string;
  readonly branch?: string;
  readonly edition?: number;
  /** The files are written, and what should have recorded them failed: what is left to be done by hand. */
  readonly unrecorded?: string;
}

/** A change of somebody's draft, and why it does not fit the files as they stand where it does not. */
export interface DraftedChange {
  readonly id: number;
  readonly change: Change;
  /** The flag or the cohort that it is about, and what it says of it in a few words. */
  readonly about: string;
  readonly words: string;
  readonly fault?: { readonly message: string; readonly help?: string | undefined } | undefined;
}

/** `GET api/draft`, and what changing it answers: `POST api/draft/add`, `api/draft/drop` and `api/draft/clear`. */
export interface DraftAnswer {
  readonly number: number;
  readonly changes: readonly DraftedChange[];
  /** Private attributes that were left out of an example, since drafts are kept on disk. */
  readonly leftOut?: readonly string[];
}

/** `POST api/draft/add`: one change more; it is worked out before it is taken. */
export interface AddRequest {
  readonly change: Change;
}

/** `POST api/draft/drop`: one change less. */
export interface DropRequest {
  readonly id: number;
}

/** `GET api/draft/review`: what it would mean to write the draft. */
export interface ReviewAnswer {
  readonly number: number;
  /** Of the files that it was worked out on. */
  readonly version: string;
  readonly files: readonly string[];
  /** What it means, and what can be proved of it, part by part. */
  readonly changes: readonly PartChange[];
  /** Why it would not be written. */
  readonly refused: readonly LocatedProblem[];
  /** What a check warns of afterwards and did not before. */
  readonly warnings: readonly LocatedProblem[];
  /** What does not fit any more, and would stay in the draft. */
  readonly left: readonly DraftedChange[];
  /** How it is recorded. */
  readonly record: RecordWords;
}

/** What becomes of a draft that is written: files; a commit as well; a commit on a branch, and no files; an edition of a shelf. */
export type RecordWords =
  | { readonly as: "files" | "commit" }
  | { readonly as: "branch"; readonly branch: string }
  | { readonly as: "edition"; readonly shelf: string };

/** `POST api/draft/reach`: whom the draft reaches, in a file of people. The answer is NDJSON. */
export interface ReachRequest {
  readonly file: string;
  readonly at: number;
  readonly environments: readonly string[];
}

/** A line of that answer. */
export type ReachLine =
  | { readonly progress: number }
  | { readonly reach: readonly (PeopleReach & { readonly environment: string | undefined })[] }
  | { readonly failed: string };

/** `POST api/draft/write`: writes what was reviewed, and nothing else. */
export interface WriteRequest {
  readonly number: number;
  readonly version: string;
  readonly note: string;
}

/** `POST api/positions`: how many people of a file any share of a rule would take. The answer is NDJSON. */
export interface PositionsRequest {
  readonly by: string;
  readonly flag: string;
  readonly rule: number;
  readonly environment?: string;
  readonly file: string;
  /** Epoch milliseconds; at most six. */
  readonly instants: readonly number[];
  /** What is being written and is not in the draft yet: the rule counts as it would be with it. */
  readonly changes: readonly { readonly change: Change }[];
}

/** What a rule takes at an instant, as it is and as it would be. */
export interface PositionsAt {
  readonly at: number;
  readonly before: PositionCounts;
  readonly after: PositionCounts;
}

/** A line of that answer. */
export type PositionsLine =
  | { readonly progress: number }
  | { readonly positions: readonly PositionsAt[] }
  | { readonly failed: string };

/** `GET api/history`: earlier changes by meaning, newest first; with `flag`, of that flag only. */
export interface HistoryAnswer {
  readonly entries: readonly HistoryEntry[];
}

/** `POST api/ids`: the ids that a pasted text holds. */
export interface IdsRequest {
  readonly by: string;
  readonly cohort: string;
  readonly text: string;
  /** Of a table; that of its ids if left out. */
  readonly column?: string;
}

/** What was read of it, and how many of the ids a cohort's list holds already. */
export interface IdsAnswer extends Omit<ReadIds, "read"> {
  readonly held: number;
  /** How the text was understood, from its beginning. */
  readonly read: readonly {
    readonly text: string;
    readonly is: "new" | "there" | "doubled" | "unreadable" | "heading";
  }[];
}

/** `GET api/shelf`: the editions of a shelf by meaning, newest first, and who follows it. */
export interface ShelfAnswer {
  readonly called: string;
  readonly editions: readonly {
    readonly number: number;
    /** An instant of RFC 3339, by the publisher's clock. */
    readonly published: string;
    readonly by: string;
    readonly note: string;
    /** Left out where the one before it does not stand any more. */
    readonly changes?: readonly PartChange[];
  }[];
  /** Left out for a shelf that has no list of followers. */
  readonly followers?: readonly (Noted & { readonly isBehind: boolean; readonly isSilent: boolean })[];
}
