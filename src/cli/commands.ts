import type { Command } from "commander";
import type { Cli } from "./cli.ts";

/** A command, as the help lists it; what it does is loaded when it is the one that is meant. */
export interface CommandEntry {
  /** The name and its arguments, as `why <what>`. */
  readonly usage: string;
  readonly description: string;
  /** Holds for what `iudex new` makes. */
  readonly example: string;
  /** The heading under which the help lists it. */
  readonly group: "Looking" | "Comparing and counting" | "Changing" | "On many machines" | "For code and people";
  /** False for a command that reads no definitions. */
  readonly readsFolder?: boolean;
  /** Gives what adds the options and the action. */
  load(): Promise<(command: Command, cli: Cli) => void>;
}

/** In the order in which the help lists them: looking, comparing, changing. */
export const commands: readonly CommandEntry[] = [
  {
    usage: "new [folder]",
    group: "Changing",
    description:
      "A starter folder: one flag, some people, a schema line for editors, a git-ignore line for local overrides.",
    example: "iudex new flags",
    readsFolder: false,
    load: async () => (await import("./commands/new.ts")).addNew,
  },
  {
    usage: "check",
    group: "Looking",
    description: "Is every file sound, and do the examples hold?",
    example: "iudex check",
    load: async () => (await import("./commands/check.ts")).addCheck,
  },
  {
    usage: "why <what>",
    group: "Looking",
    description:
      "Which answer does somebody get, and why? Of a flag, or of any condition, such as cohort:crew or window:winter.",
    example: "iudex why new-greeting --env production --as email=ada@our-company.example",
    load: async () => (await import("./commands/why.ts")).addWhy,
  },
  {
    usage: "list [kind]",
    group: "Looking",
    description:
      "Who gets what and when, each flag in a sentence; where environments differ, a sentence each. KIND may be flags, cohorts, windows or attributes: what these mean and where they are used.",
    example: "iudex list --at 2026-12-05T12:00Z",
    load: async () => (await import("./commands/list.ts")).addList,
  },
  {
    usage: "agenda",
    group: "Looking",
    description: "What will change by itself, when, and in which zone?",
    example: "iudex agenda --at 2026-11-30T12:00Z",
    load: async () => (await import("./commands/agenda.ts")).addAgenda,
  },
  {
    usage: "census <flag>",
    group: "Comparing and counting",
    description: "How do the values of a flag fall on a file of contexts?",
    example: "iudex census new-greeting --env production --people flags/people.csv --by plan",
    load: async () => (await import("./commands/census.ts")).addCensus,
  },
  {
    usage: "diff [old] [new]",
    group: "Comparing and counting",
    description:
      "What does a change mean? OLD and NEW are revisions of the repository (or OLD..NEW), folders or files; what is left out is HEAD and the folder as it is.",
    example: "iudex diff HEAD --env production --people flags/people.csv",
    load: async () => (await import("./commands/diff.ts")).addDiff,
  },
  {
    usage: "history [flag]",
    group: "Comparing and counting",
    description: "Earlier changes by meaning, from the repository's log, newest first.",
    example: "iudex history new-greeting",
    load: async () => (await import("./commands/history.ts")).addHistory,
  },
  {
    usage: "weigh [flag]",
    group: "Comparing and counting",
    description: "What came of it? The groups that a flag made, beside each other, and no more than can be said.",
    example: "iudex weigh --plan --rate 4% --tell 0.5 --daily 2000",
    load: async () => (await import("./commands/weigh.ts")).addWeigh,
  },
  {
    usage: "leftovers",
    group: "Comparing and counting",
    description: "Which flags can be removed: past their review, decided for everyone, not named in the code?",
    example: "iudex leftovers --at 2027-03-01T00:00Z",
    load: async () => (await import("./commands/leftovers.ts")).addLeftovers,
  },
  {
    usage: "suspend <flag>",
    group: "Changing",
    description: "The emergency stop: the flag gives its safe value to everyone, and keeps its rules.",
    example: 'iudex suspend new-greeting --env production --note "it greets the wrong people" --yes',
    load: async () => (await import("./commands/suspend.ts")).addSuspend,
  },
  {
    usage: "reinstate <flag>",
    group: "Changing",
    description: "Ends a suspension: the flag is judged by its rules again.",
    example: "iudex reinstate new-greeting --env production --yes",
    load: async () => (await import("./commands/suspend.ts")).addReinstate,
  },
  {
    usage: "set <flag>",
    group: "Changing",
    description:
      "Sets anything of a flag or of cohort:NAME: shares, values, conditions, rules, examples, ids; makes new ones; shows what it means, then asks.",
    example: 'iudex set new-greeting --rule "one in ten" --share 25% --people flags/people.csv --yes',
    load: async () => (await import("./commands/set.ts")).addSet,
  },
  {
    usage: "publish",
    group: "On many machines",
    description: "Puts the definitions on a shelf as its next edition: checks them, shows the change, asks, signs.",
    example: 'iudex publish --to ./shelf --note "the first edition" --yes',
    load: async () => (await import("./commands/publish.ts")).addPublish,
  },
  {
    usage: "shelf <shelf>",
    group: "On many machines",
    description: "What stands on a shelf, edition by edition and by meaning, and who follows it.",
    example: "iudex shelf ./shelf",
    readsFolder: false,
    load: async () => (await import("./commands/shelf.ts")).addShelf,
  },
  {
    usage: "stops <shelf>",
    group: "On many machines",
    description: "What is stopped at a shelf, since when and by whom; --again signs it with another key.",
    example: "iudex stops ./shelf",
    readsFolder: false,
    load: async () => (await import("./commands/stops.ts")).addStops,
  },
  {
    usage: "watch",
    group: "Looking",
    description: "Live: each change of the definitions as it is accepted or refused, a line each, until interrupted.",
    example: "iudex watch --env production",
    load: async () => (await import("./commands/watch.ts")).addWatch,
  },
  {
    usage: "desk",
    group: "For code and people",
    description:
      "A page for people who do not edit files: what is on for whom, now or at another time, and why; on this machine, until interrupted.",
    example: "iudex desk --env production --people flags/people.csv",
    load: async () => (await import("./commands/desk.ts")).addDesk,
  },
  {
    usage: "catalogue",
    group: "For code and people",
    description: "A catalogue module and the type of the context, in TypeScript, from the definitions.",
    example: "iudex catalogue > flags.catalogue.ts",
    load: async () => (await import("./commands/catalogue.ts")).addCatalogue,
  },
  {
    usage: "key",
    group: "On many machines",
    description:
      "Makes a key pair for passes, editions or stops: a new file for the private half, the public half as a set on standard output.",
    example: "iudex key --for passes --to pass-key.json",
    readsFolder: false,
    load: async () => (await import("./commands/key.ts")).addKey,
  },
  {
    usage: "pass <flag=value...>",
    group: "For code and people",
    description: "A signed pass: overrides for one person's own requests, in one environment, for a time.",
    example: "iudex pass new-greeting=true --env production --for 2h --key pass-key.json",
    load: async () => (await import("./commands/pass.ts")).addPass,
  },
];

/** What people write who know other words for it. */
export const otherWords: Readonly<Record<string, string>> = {
  toggle: "iudex set FLAG --otherwise true, or iudex suspend FLAG",
  enable: "iudex set FLAG --otherwise true, or iudex reinstate FLAG after a stop",
  disable: "iudex suspend FLAG",
  on: "iudex set FLAG --otherwise true",
  off: "iudex suspend FLAG",
  stop: "iudex suspend FLAG",
  kill: "iudex suspend FLAG",
  start: "iudex reinstate FLAG",
  resume: "iudex reinstate FLAG",
  status: "iudex list, or iudex stops SHELF for what is stopped there",
  show: "iudex list, or iudex why FLAG",
  get: "iudex why FLAG",
  explain: "iudex why FLAG",
  create: "iudex new for a folder, iudex set FLAG --new-flag for a flag",
  add: "iudex set FLAG --new-flag",
  remove: "iudex set FLAG --remove-flag",
  delete: "iudex set FLAG --remove-flag",
  rename: "iudex set FLAG --rename NAME",
  validate: "iudex check",
  lint: "iudex check",
  test: "iudex check: it runs the examples",
  init: "iudex new",
  log: "iudex history",
  results: "iudex weigh FLAG",
};
