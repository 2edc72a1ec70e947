/** What the drawer knows. */
export interface Developer {
  readonly environment: string;
  readonly revision: string;
  readonly clock: { readonly now: string; readonly moved: boolean };
  readonly travellers: readonly { readonly id: string; readonly name: string; readonly plan: string }[];
  readonly context: object;
  readonly tried: boolean;
  /** The last change of the files, if it was refused. */
  readonly refused: string | null;
  readonly flags: readonly FlagRow[];
}

export interface FlagRow {
  readonly name: string;
  readonly value: unknown;
  readonly variant?: string;
  readonly cause: string;
  readonly rule?: number;
  readonly overriddenBy?: string;
  readonly sentence: string;
  /** Variants by name, or values; none for data. */
  readonly choices: readonly unknown[];
}

export type Send = (path: string, body: object) => Promise<void>;

/** The cause in a few words. */
export function causeWords({ cause, rule, overriddenBy }: FlagRow): string {
  switch (cause) {
    case "override":
      return overriddenBy === "local-file" ? "turned here" : `overridden (${overriddenBy})`;
    case "rule":
      return `rule ${rule} matches`;
    case "withheld":
      return "withheld: what it is provided on does not hold";
    case "suspended":
      return "suspended";
    case "otherwise":
      return "no rule matches";
    default:
      return cause;
  }
}
