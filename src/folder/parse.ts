import { limits } from "../values/index.ts";
import { locateJson, parseJson } from "./json.ts";
import { type FileFault, isJson, type Locator, type ParsedText } from "./parsed-file.ts";
import { locateYaml, parseYaml } from "./yaml.ts";

/** Reads the text of a definition file into data, by the ending of its name. */
export function parseText(file: string, text: string): ParsedText {
  return isJson(file) ? parseJson(text) : parseYaml(text);
}

export function locatorFor(file: string, text: string): Locator {
  return isJson(file) ? locateJson(text) : locateYaml(text);
}

export function tooLarge(size: number): FileFault | undefined {
  if (size <= limits.fileBytes) return undefined;
  return {
    code: "file-too-large",
    range: { start: 0, end: 0 },
    message: "This file is too large.",
    found: `${(size / 2 ** 20).toFixed(1)} MB`,
    expected: `at most ${limits.fileBytes / 2 ** 20} MB`,
    help: "split it, or move ids to a list file",
  };
}
