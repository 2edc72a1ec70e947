/** For whom something is asked. */
export type Whom =
  | { readonly kind: "everyone" }
  /** One person: what is known of them, as a context. */
  | { readonly kind: "person"; readonly context: Readonly<Record<string, unknown>>; readonly lacks: readonly string[] }
  /** A file of people, by its name. */
  | { readonly kind: "people"; readonly file: string };

/** The four parts of a question. */
export interface Circumstances {
  readonly whom: Whom;
  /** Every one, side by side, if undefined. */
  readonly environment: string | undefined;
  /** Epoch milliseconds; now if undefined. */
  readonly at: number | undefined;
  /** Which version of the definitions: `files`, `draft`, `commit:` and a revision, `edition:` and a number. */
  readonly by: string;
}

/** What is shown, as the last word of the question says. */
export type Shown =
  | { readonly view: "flags"; readonly find: string; readonly only: Filter }
  | { readonly view: "flag"; readonly name: string }
  | { readonly view: "cohorts" | "windows" | "attributes"; readonly name: string | undefined }
  | { readonly view: "coming" | "history" | "problems" | "review" | "shelf" };

/** Which flags of all are shown. */
export type Filter = "all" | "differing" | "changing" | "overdue" | "stopped";

/** What the page answers. */
export interface Question {
  readonly asked: Circumstances;
  /** A second question beside the first: what differs between them comes first. */
  readonly against: Circumstances | undefined;
  readonly shown: Shown;
}

export const everyone: Whom = { kind: "everyone" };

export const allFlags: Shown = { view: "flags", find: "", only: "all" };

export const filters: readonly Filter[] = ["all", "differing", "changing", "overdue", "stopped"];
