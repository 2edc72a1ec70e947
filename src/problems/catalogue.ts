/**
 * Every kind of problem that reading and checking can find: its severity and, for the reference, what it means and
 * what to do. The wording of a single problem is made where it is found; this is what all of one kind share.
 */
export interface ProblemKind {
  readonly severity: "error" | "warning";
  /** False for errors that are reported and yet leave the set usable. */
  readonly blocks?: false;
  readonly meaning: string;
  readonly remedy: string;
}

const error = (meaning: string, remedy: string): ProblemKind => ({ severity: "error", meaning, remedy });
const report = (meaning: string, remedy: string): ProblemKind => ({
  severity: "error",
  blocks: false,
  meaning,
  remedy,
});
const warning = (meaning: string, remedy: string): ProblemKind => ({ severity: "warning", meaning, remedy });

/** Every kind of problem by its code: whether it is an error, what it means, what to do. */
export const problemCatalogue = {
  // The folder and its files
  "folder-missing": error("The definition folder does not exist or is not a folder.", "Check the path."),
  "folder-empty": error("The folder holds no definition file.", "Add a file that begins with `iudex: 1`."),
  "too-many-files": error("The folder holds more than 1,000 definition files.", "Split the set, or join small files."),
  "file-unreadable": error("A file cannot be read.", "Check its permissions."),
  "file-too-large": error("A definition file is over 5 MB.", "Split it, or move ids to a list file."),
  "folder-too-large": error("The definition files together are over 64 MB.", "Move ids to list files."),
  "lists-too-large": error("The list files together are over 512 MB.", "Keep fewer ids."),
  "reading-too-long": error("Reading a file took more than 30 seconds.", "Split it, and write it more plainly."),
  "reading-too-much": error("Reading a file would take more than 1 GB of memory.", "Split it."),
  "too-many-nodes": error("A file holds more than 750,000 values.", "Split it, or move ids to a list file."),
  "more-problems": error("There are more problems than the 1,000 that are kept.", "Mend the others first."),
  "file-not-text": error("A file is not UTF-8 text.", "Save it as UTF-8."),
  "outside-folder": error("A path or link leads out of the definition folder.", "Keep everything inside the folder."),
  "file-name": error(
    "A file has a name that means another file, or none, on some machine.",
    "Write it with forward slashes; rename files that differ only by case.",
  ),

  // The text of a file
  "yaml-syntax": error("The file is not valid YAML 1.2.", "Correct it at the place given; quote conditions."),
  "json-syntax": error("The file is not valid JSON.", "Correct it at the place given."),
  "yaml-feature": error("The file uses a part of YAML that definitions do without.", "Write plain YAML."),
  "too-many-aliases": error("Aliases expand too often or to too much.", "Write the parts out, or name a cohort."),
  "duplicate-key": error("A key stands twice in one object.", "Keep one of the two."),
  "key-not-text": error("A key of an object is a list, an object or nothing.", "Use a text as the key."),
  "null-value": error("A key has no value.", "Write a value, or take the key out."),
  "number-not-finite": error("A number is infinite or not a number.", "Write a finite number."),
  "too-deep": error(
    "Data is nested deeper than 32 levels, or more than 100 references follow each other.",
    "Flatten it.",
  ),

  // The shape of a file
  "format-missing": error("A file does not say `iudex: 1`.", "Write `iudex: 1` as its first line."),
  "format-newer": error("A file is written in a newer format.", "Update Iudex, or use the older format."),
  "unknown-key": error("A key that the format does not know.", "Correct its spelling, or take it out."),
  "missing-key": error("A key that is required is not there.", "Add it."),
  "not-exactly-one": error("Of some keys exactly one belongs here.", "Keep one of them."),
  "wrong-type": error("A value is of another type than the key takes.", "Write what the message says."),
  "empty-list": error("A list or object that needs members has none.", "Add one, or take the key out."),
  "name-invalid": error("A name has characters that names do not have.", "Use letters, digits, `-`, `_` and `.`."),
  "path-invalid": error("The path of an attribute cannot be read.", 'Write `account.id` or `claims["a name"]`.'),
  "defined-twice": error("The same thing is defined in two places.", "Keep one of the two."),
  "late-condition": warning("`when` stands after `share`, `give` or `split`.", "Move it up."),
  "looks-like-yes-no": warning(
    "A text such as `off` stands where a yes-no may be meant.",
    "Write true or false, or quote it.",
  ),

  // Conditions
  "condition-empty": error("A condition has no text.", "Leave the key out if everyone is meant."),
  "condition-syntax": error("A condition cannot be read.", "Correct it at the mark."),
  "condition-too-long": error("A condition is over 4,096 characters.", "Use a cohort."),
  "condition-too-deep": error("Brackets are nested deeper than 32 levels.", "Name a part as a cohort."),
  "half-surrogate": error("A text holds half of a surrogate pair.", "Write the whole character."),
  "mixed-list": error("A list in a condition mixes types.", "Use one type."),
  "regex-invalid": error(
    "A regular expression is not RE2 syntax.",
    "Correct it; look-around and back references do not exist.",
  ),
  "undeclared-attribute": error(
    "A set that declares attributes uses another one.",
    "Declare it, or correct its spelling.",
  ),
  "impossible-test": error("No value of the declared type can decide a test.", "Use a test that fits the type."),
  "number-for-version": error("A version is compared with a number.", "Write `v4.2`."),
  "unknown-cohort": error("A condition names a cohort that nobody defines.", "Correct its spelling, or define it."),
  "unknown-window": error("A condition names a window that nobody defines.", "Correct its spelling, or define it."),
  "unknown-flag": error("A condition names a flag that nobody defines.", "Correct its spelling, or define it."),
  "unknown-environment": error("A name is that of no declared environment.", "Correct its spelling, or declare it."),
  "lower-with-capitals": warning(
    "A lower-case text is compared with one that has capitals.",
    "Write the text in lower case.",
  ),
  "unlisted-text": warning(
    "A test compares with a text that its attribute or flag does not list.",
    "Correct it, or list it.",
  ),
  circle: error("Flags and cohorts refer to each other in a circle.", "Break it at one of the places given."),

  // Flags
  "value-type": error("A value is of another type than its flag or attribute.", "Write a value of the type."),
  "unknown-rule": error(
    "An environment adjusts a rule that is not there once.",
    "Correct the name, or give each rule a name of its own.",
  ),
  "unknown-variant": error("A name is that of no variant of the flag.", "Use the name of a variant."),
  "subject-missing": error("A share or split has no attribute to go by.", "Add `by`."),
  "share-invalid": error("A share cannot be read.", "Write a percentage, such as `10%`, or a range, `20% to 45%`."),
  "share-order": error("The steps of a rising share are not in order.", "Put them in order of time."),
  "share-falls": warning(
    "A step of a rising share is smaller than the one before.",
    "Check that people are meant to lose it.",
  ),
  "split-invalid": error("A split cannot be read or divides nothing.", "Write `[2 classic, 1 deck]`."),

  "schema-invalid": error(
    "A JSON Schema cannot be used.",
    "Write JSON Schema 2020-12, with references inside it only.",
  ),
  "schema-misplaced": error("A schema stands on a flag that is not of data.", "Take it out."),
  "schema-violated": error("A value does not keep the schema of its flag.", "Correct the value, or the schema."),
  "schema-unchecked": warning(
    "A flag has a schema, and nothing here can hold values against it.",
    "Hand a validator to the reading: `schemas`.",
  ),

  // Environments
  "protected-environment": error("A protected environment has local overrides.", "Take one of the two out."),

  // Times
  "zone-unknown": error("A time zone does not exist.", "Use an IANA name, spelt as in the database."),
  "zone-missing": error("Local time stands where no zone is given.", "Give a zone, or write `Z` or an offset."),
  "time-invalid": error(
    "A date or time cannot be read, or does not exist.",
    "Write `2026-12-01` or `2026-12-01T09:00`.",
  ),
  "hours-invalid": error("Opening hours cannot be read.", "Write `Mo-Fr 07:00-19:00; Sa 09:00-13:00`."),
  "window-empty": error("A window has neither a bound nor hours.", "Add one."),
  "window-turned": error("A window ends before it begins.", "Swap or correct its bounds."),
  "window-never-open": warning("A window can never be open.", "Correct its hours, bounds or exceptions."),

  // Lists of ids
  "id-invalid": error("A member of a list is not an id.", "Write a text or a whole number."),
  "id-not-exact": error("An unquoted id loses its spelling when read as a number.", "Put it in quotes."),
  "list-missing": error(
    "A list file does not exist or cannot be read.",
    "Check the path, relative to the definition folder.",
  ),
  "list-kind": error("A list file is neither .csv nor .txt.", "Rename or convert it."),
  "list-column": error("A list file has no such column.", "Name one of its columns."),
  "list-syntax": error("A list file is not valid CSV.", "Correct it at the line given."),
  "list-empty": error("A list file holds nothing at all, as if it had been cut off.", "Write the header of the list."),
  "list-too-large": error("A list file is over 64 MB.", "Split it into cohorts."),

  // Examples, suspensions, overrides: errors that leave the set usable
  "override-refused": report(
    "An override names no flag, or gives what its flag cannot.",
    "Correct it, or take it out.",
  ),
  "catalogue-mismatch": report(
    "A program's catalogue promises what the definitions do not keep.",
    "Correct the one that is wrong; until then the fallback holds.",
  ),
  "example-fails": report("An example does not give what it says.", "Correct the rules or the example."),
  "example-needs-time": report("An example whose answer depends on time says no instant.", "Add `at`."),
  "suspension-fault": report("A part of `suspended.yaml` cannot be read.", "Correct it; the rest is in force."),
  "suspended-unknown": warning("A flag is suspended that nobody defines.", "Correct its name, or take it out."),

  // Findings of the analysis
  "rule-never-reached": warning(
    "Earlier rules cover everybody that a rule could match.",
    "Move it up, narrow the earlier ones, or take it out.",
  ),
  "share-never-reached": warning(
    "An earlier share under the same salt holds everybody in this one.",
    "Shares are nested, not added: raise it, or use another salt.",
  ),
  "never-true": warning("A condition can never be true.", "Correct it, or take the rule out."),
  "always-true": warning("A condition is true for everybody.", "Take it out if everyone is meant."),
  "tests-contradict": warning("One side of a condition can never be true.", "Correct it."),
  "deny-by-rule": warning(
    "A rule takes away on a condition that missing data leaves undecided.",
    "Use `provided`, which withholds when undecided.",
  ),
  "window-over": warning("A window has ended.", "Remove what uses it."),
  "rising-complete": warning("A rising share has reached 100%.", "Remove the share, or the flag."),
  "unused-cohort": warning("Nothing uses a cohort.", "Use it or take it out."),
  "unused-window": warning("Nothing uses a window.", "Use it or take it out."),
  "unused-variant": warning("Nothing gives a variant.", "Use it or take it out."),
} as const satisfies Record<string, ProblemKind>;

/** The stable code of a kind of problem, such as `unknown-flag`. */
export type ProblemCode = keyof typeof problemCatalogue;
