// What stands in a file: shapes, and the tables of the format.
export {
  collectEntries,
  collectEnvironments,
  type Document,
  Entry,
  entriesOf,
  reportTwice,
  type SourceFile,
} from "./entries.ts";
export type { DefaultsSource, EnvironmentSource, WindowSource } from "./format/files.ts";
export type { ExampleSource, FlagEnvironmentSource, FlagSource, SchemaSource } from "./format/flags.ts";
export type { AttributeSource, CohortSource } from "./format/people.ts";
export type { AdjustmentSource, RuleSource } from "./format/rules.ts";
export { noShare, parseRisingStep, type RisingSource, type ShareSource } from "./format/shares.ts";
export { checkFormatVersion, readFile, readFileInSteps } from "./read-file.ts";
export { definitionSchema } from "./schema.ts";
export type { JsonSchema } from "./shape.ts";
export { overridesFile, suspensionFile } from "./side-files.ts";
export { isSpellingKept, yesNoWords } from "./spelling.ts";
export { parseSplitPart } from "./split.ts";
export { Walk } from "./walk.ts";
