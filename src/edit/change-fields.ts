import type { Change } from "./change.ts";

/** What a field of a change holds. */
export type FieldKind = "text" | "yes" | "number" | "texts" | "context";

/** A field of a form. */
export interface FieldForm {
  readonly says: string;
  /** What there is to choose from. */
  readonly choices?: readonly string[];
  readonly isDay?: true;
  /** What stands in it while it is empty. */
  readonly hint?: string;
  /** Said of the flag itself: every form for that asks for it. */
  readonly isParticular?: true;
}

/** Everything that is known of a field of a change: the command line, the desk and its drafts go by it. */
export interface ChangeField {
  readonly is: FieldKind;
  /** True if no such change can be without it. */
  readonly needed?: true;
  /** What it is called where a change is put into words; for fields that change nothing by themselves there is no word. */
  readonly called?: string;
  /** How a form asks for it. */
  readonly form?: FieldForm;
  /** How the command line takes it, and what its help says. Two kinds of change may share an option. */
  readonly option?: readonly [flags: string, says: string];
}

type FieldsOf<C extends Change> = { readonly [Field in Exclude<keyof C, "change">]-?: ChangeField };

const flag = { is: "text", needed: true } as const;
const cohort = { is: "text", needed: true } as const;
const environment = {
  is: "text",
  option: ["--env <name>", "in this environment only: adjusts the rule there"],
} as const;

/** Said of the flag itself. */
const particulars = {
  about: {
    is: "text",
    called: "what it is for",
    form: { says: "What it is for", isParticular: true },
    option: ["--about <text>", "what it is for"],
  },
  owner: {
    is: "text",
    called: "owner",
    form: { says: "Owner", isParticular: true },
    option: ["--owner <name>", "who answers for it"],
  },
  lifespan: {
    is: "text",
    called: "lifespan",
    form: { says: "Lifespan", choices: ["passing", "lasting"], isParticular: true },
    option: ["--lifespan <word>", "passing or lasting"],
  },
  reviewBy: {
    is: "text",
    called: "review by",
    form: { says: "Review by", isDay: true, isParticular: true },
    option: ["--review-by <day>", "when it is to be looked at again, such as 2027-03-31"],
  },
} as const;

const safe = {
  is: "text",
  called: "safe value",
  form: { says: "Safe value" },
  option: ["--safe <value>", "the value that does no harm"],
} as const;
const when = {
  is: "text",
  called: "condition",
  form: { says: "For whom (nothing: everyone)" },
  option: ["--when <condition>", "the rule's condition, or that of a cohort; everyone takes it out of a rule"],
} as const;
const share = {
  is: "text",
  called: "share",
  form: { says: "Share", hint: "all of them" },
  option: ["--share <percent>", "the rule's share: 25%, 20% to 45%, or 1% from 2026-12-01T09:00, …; none takes it out"],
} as const;
const file = {
  is: "text",
  option: ["--file <name>", "with --new-flag or --new-cohort: the definition file, which may be new"],
} as const;
const added = { is: "texts", option: ["--add-id <ids...>", "with cohort:NAME: ids to add"] } as const;

/**
 * The fields of each kind of change, in the order in which help lists them. A field of a request that has no row here does
 * not compile.
 */
export const changeFields: { readonly [Kind in Change["change"]]: FieldsOf<Extract<Change, { change: Kind }>> } = {
  flag: {
    flag,
    environment,
    like: { is: "text", option: ["--like <environment>", "copy that environment's settings to --env"] },
    rule: { is: "text", option: ["--rule <name>", "the rule: its name, or its number from 1"] },
    share,
    give: {
      is: "text",
      called: "value",
      form: { says: "They get" },
      option: ["--give <value>", "what the rule gives: a value, or the name of a variant"],
    },
    split: {
      is: "text",
      called: "split",
      form: { says: "They are divided" },
      option: ["--split <parts>", "how the rule divides, such as 2 classic, 1 deck"],
    },
    when,
    by: {
      is: "text",
      called: "drawn by",
      form: { says: "Drawn by the attribute" },
      option: ["--by <attribute>", "the attribute by which a rule or a lot draws; default goes by that of the file"],
    },
    called: { is: "text", called: "name", form: { says: "Name" } },
    remark: { is: "text", called: "remark", form: { says: "Remark" } },
    place: { is: "number", option: ["--place <n>", "the rule's new place, from 1"] },
    newRule: {
      is: "text",
      form: { says: "Name" },
      option: ["--new-rule <name>", "a new rule with what else is given, at --place or at the end"],
    },
    remove: { is: "yes", option: ["--remove", "take the rule out"] },
    otherwise: {
      is: "text",
      called: "value for everybody else",
      form: { says: "Everybody else gets" },
      option: ["--otherwise <value>", "the value when no rule matches"],
    },
    safe,
    provided: {
      is: "text",
      called: "what must hold",
      form: { says: "Only where (nothing: everywhere)" },
      option: ["--provided <condition>", "what must hold for everything else; everyone takes it out"],
    },
    ...particulars,
  },
  "new-flag": {
    flag: { ...flag, form: { says: "Name" } },
    safe: { ...safe, needed: true },
    variants: {
      is: "text",
      form: { says: "Variants", hint: "classic=list, deck=deck-plan" },
      option: ["--variants <pairs>", "with --new-flag: classic=list, deck=deck-plan"],
    },
    file,
    ...particulars,
  },
  rename: {
    flag,
    to: {
      is: "text",
      needed: true,
      option: ["--rename <name>", "another name for the flag: what names it follows, and people keep their groups"],
    },
  },
  copy: {
    flag,
    to: {
      is: "text",
      needed: true,
      option: ["--copy <name>", "a second flag of this name, which gives everybody the same"],
    },
  },
  "remove-flag": { flag },
  example: {
    flag,
    environment,
    as: { is: "context" },
    at: { is: "text", option: ["--example-at <instant>", "with --example: the instant"] },
    gives: { is: "text", option: ["--gives <value>", "with --example: what they get"] },
    isMadeUp: { is: "yes" },
    instead: { is: "number" },
    dropExample: { is: "number", option: ["--drop-example <n>", "take out the example of this number, from 1"] },
  },
  cohort: {
    cohort: { ...cohort, form: { says: "Name" } },
    isNew: {
      is: "yes",
      option: ["--new-cohort", "with cohort:NAME: a new one, by --when, --share (a lot), or --of (a list)"],
    },
    file,
    about: { ...particulars.about, form: { says: "What it is" } },
    when: { ...when, form: { says: "Condition" } },
    share: { ...share, form: { says: "Share", hint: "20%" } },
    of: {
      is: "text",
      called: "of",
      form: { says: "By the attribute" },
      option: ["--of <attribute>", "with cohort:NAME: the attribute that holds the ids of a list"],
    },
    by: {
      is: "text",
      called: "by",
      form: { says: "By the attribute" },
      option: ["--by <attribute>", "the attribute by which a rule or a lot draws; default goes by that of the file"],
    },
    list: {
      is: "text",
      form: { says: "List file", hint: "none: in place" },
      option: ["--list <file>", "with --new-cohort: the list file for the ids, such as lists/captains.csv"],
    },
    column: { is: "text", option: ["--column <name>", "with --list: the column"] },
    ids: added,
  },
  ids: {
    cohort,
    add: added,
    drop: { is: "texts", option: ["--drop-id <ids...>", "with cohort:NAME: ids to take out"] },
  },
  "own-rules": { flag, environment: { is: "text", needed: true } },
  variant: {
    flag,
    variant: { is: "text", needed: true, form: { says: "Variant" } },
    value: { is: "text", called: "value", form: { says: "Its value" } },
    remove: { is: "yes" },
  },
  restore: { flag, commit: { is: "text", needed: true } },
};

/** The fields of forms, by kind of change. */
export type ChangeForms = { readonly [Kind in Change["change"]]: Readonly<Record<string, FieldForm>> };

export const changeForms = Object.fromEntries(
  Object.entries(changeFields).map(([kind, fields]) => [
    kind,
    Object.fromEntries(
      Object.entries(fields as Readonly<Record<string, ChangeField>>).flatMap(([field, { form }]) =>
        form ? [[field, form]] : [],
      ),
    ),
  ]),
) as ChangeForms;
