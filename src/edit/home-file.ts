import { isDefinitionFile, type Loaded, localOverridesFile, suspendedFile, ToolError } from "../files/index.ts";
import { sentenceList } from "../values/index.ts";
import { nameOf } from "./edit-session.ts";

/** Where a new flag or cohort is to stand, and the text that stands there. */
export interface HomeFile {
  readonly file: string;
  readonly text: string;
}

const emptyFile = "iudex: 1\n";

/**
 * The file for something new: the one that is named, which may be new itself, or the only one that has such a section.
 *
 * @throws {ToolError} where it is not certain which one is meant
 */
export function homeFor(
  section: "flags" | "cohorts",
  named: string | undefined,
  { content, definitions }: Loaded,
): HomeFile {
  if (named !== undefined) return homeCalled(named, content);
  const members = section === "flags" ? definitions?.flags : definitions?.cohorts;
  const files = [...new Set([...(members?.values() ?? [])].map(({ place }) => place.file))].sort();
  if (files.length > 1)
    throw new ToolError(
      `In which file? ${section} stand in ${sentenceList(files)}.`,
      "say --file and one of them, or a new one",
    );
  const all = content.definitions;
  const file = files[0] ?? (all.length === 1 ? all[0]! : `${section}.yaml`);
  return { file, text: content.files.get(file)?.text ?? emptyFile };
}

function homeCalled(written: string, { files }: Loaded["content"]): HomeFile {
  const file = nameOf(written);
  const isPlain = file.split("/").every((part) => /^[A-Za-z0-9_][A-Za-z0-9_.-]*$/.test(part));
  if (!isPlain || !isDefinitionFile(file) || file === suspendedFile || file === localOverridesFile) {
    throw new ToolError(
      `“${file}” is not a name for a definition file.`,
      "write a name such as fares.yaml, inside the folder",
    );
  }
  return { file, text: files.get(file)?.text ?? (file.endsWith(".json") ? '{\n  "iudex": 1\n}\n' : emptyFile) };
}
