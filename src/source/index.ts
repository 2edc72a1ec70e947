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
export {
  type AdjustmentSource,
  type AttributeSource,
  type CohortSource,
  type DefaultsSource,
  type EnvironmentSource,
  type ExampleSource,
  type FlagEnvironmentSource,
  type FlagSource,
  noShare,
  parseRisingStep,
  type RisingSource,
  type RuleSource,
  type SchemaSource,
  type ShareSource,
  type WindowSource,
} from "./format.ts";
export { checkFormatVersion, readFile } from "./read-file.ts";
export { definitionSchema } from "./schema.ts";
export type { JsonSchema } from "./shape.ts";
export { overridesFile, suspensionFile } from "./side-files.ts";
export { isSpellingKept, yesNoWords } from "./spelling.ts";
export { parseSplitPart } from "./split.ts";
export { Walk } from "./walk.ts";
