/** What a sentence of a weighing claims, read from its words alone: an interval of the difference, as it is shown. */
export interface Claim {
  /** The difference lies between; undefined where the sentence says nothing of it. */
  readonly between?: readonly [number, number];
  readonly of?: "points" | "units";
  /** It is one of those that say which group has more. */
  readonly isDecided: boolean;
}

const number = String.raw`([0-9][0-9,]*(?:\.[0-9]+)?)`;
const one = (text: string) => Number(text.replaceAll(",", ""));

/** Takes the words apart again; throws for a sentence that it does not know. */
export function claimOf(says: string): Claim {
  const said = says.replace(/^although .*?: /, "");
  const read = (pattern: string) => new RegExp(`^${pattern.replaceAll("N", number)}$`).exec(said);
  const of = (m: RegExpExecArray) => (/ points?/.test(m[0]) ? "points" : "units");
  const undecided = read(
    "cannot tell yet: anything from N(?: points)? fewer to N more(?:; about N more people would probably tell N(?: points?)?)?",
  );
  if (undecided) return { between: [-one(undecided[1]!), one(undecided[2]!)], of: of(undecided), isDecided: false };
  const none = read("(?:no difference as large as|a difference, but smaller than) N(?: points?)?");
  if (none) return { between: [-one(none[1]!), one(none[1]!)], of: of(none), isDecided: false };
  const apart = read("(?:people let in|[a-z]+) (?:has|have) (more|fewer): N to N(?: points)?");
  const better = read("(?:people let in|[a-z]+) (?:does|do) (better|worse): N to N(?: points)? (more|fewer)");
  const found = apart ?? better;
  if (found) {
    const isMore = (apart ? apart[1] : better![4]) === "more";
    const [near, far] = [one(found[2]!), one(found[3]!)];
    return { between: isMore ? [near, far] : [-far, -near], of: of(found), isDecided: true };
  }
  if (/^cannot tell yet: (too few|nobody|everybody|one person)/.test(said)) return { isDecided: false };
  if (/no comparison$/.test(said)) return { isDecided: false };
  throw new Error(`Nobody can read “${says}”.`);
}
