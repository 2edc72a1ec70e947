import { memo } from "../../values/index.ts";
import type { Located } from "../places/located.ts";
import { isJson, type Locator, type ParsedText, type Spot } from "./parsed-file.ts";

/** What reads the files of one language. */
interface TextReader {
  parse(text: string): ParsedText;
  locator(text: string): Locator;
}

/** By the ending of a file's name; what reads YAML is loaded for the first file in YAML. */
async function readerFor(file: string): Promise<TextReader> {
  if (isJson(file)) {
    const { parseJson, locateJson } = await import("./json.ts");
    return { parse: parseJson, locator: locateJson };
  }
  const { parseYaml, locateYaml } = await import("./yaml.ts");
  return { parse: parseYaml, locator: locateYaml };
}

/** Texts that are remembered with what was read of them: the same file is often read by several in one process. */
const maxKnown = 64;

const known: { readonly [isJson: string]: (text: string) => Promise<ParsedText> } = {
  true: memo(maxKnown, (text) => readSource(".json", text)),
  false: memo(maxKnown, (text) => readSource(".yaml", text)),
};

/** Reads the text of a small file, or knows it: what was read is changed by nobody. */
export function readSmall(file: string, text: string): Promise<ParsedText> {
  return known[String(isJson(file))]!(text);
}

/** Reads the text of a definition file into data. */
export async function readSource(file: string, text: string): Promise<ParsedText> {
  return (await readerFor(file)).parse(text);
}

/** Finds the places of one file, on this thread: a large file takes long, and is better looked through by a worker. */
export async function locateHere(file: string, text: string, spots: readonly Spot[]): Promise<Located[]> {
  const locator = (await readerFor(file)).locator(text);
  return spots.map(({ path, part, span }) => ({ range: locator.locate(path, part, span), after: locator.after(path) }));
}
