import { locateJson, parseJson } from "./json.ts";
import { isJson, type Locator, type ParsedText } from "./parsed-file.ts";
import { locateYaml, parseYaml } from "./yaml.ts";

/** Reads the text of a definition file into data, by the ending of its name. */
export function parseText(file: string, text: string): ParsedText {
  return isJson(file) ? parseJson(text) : parseYaml(text);
}

export function locatorFor(file: string, text: string): Locator {
  return isJson(file) ? locateJson(text) : locateYaml(text);
}
