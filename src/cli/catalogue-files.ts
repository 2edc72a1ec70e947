import { resolve } from "node:path";
import { pathToFileURL } from "node:url";
import type { Catalogue } from "../catalogue/index.ts";
import { isObject } from "../values/index.ts";
import { UsageError } from "./output.ts";

/** The catalogues that a module of the program exports. */
export async function cataloguesIn(path: string): Promise<readonly Catalogue[]> {
  const exported = await load(path);
  const catalogues = Object.values(exported).filter(isCatalogue);
  if (catalogues.length > 0) return catalogues;
  throw new UsageError(
    `The module ${path} exports no catalogue.`,
    "write export const catalogue = defineCatalogue({ … })",
  );
}

async function load(path: string): Promise<Record<string, unknown>> {
  try {
    return (await import(pathToFileURL(resolve(path)).href)) as Record<string, unknown>;
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    const help = /\.[cm]?tsx?$/.test(path) ? "name the JavaScript that is built from it" : "name a JavaScript module";
    throw new UsageError(`The module ${path} cannot be loaded: ${why}`, help);
  }
}

function isCatalogue(value: unknown): value is Catalogue {
  return isObject(value) && isObject(value["entries"]);
}
