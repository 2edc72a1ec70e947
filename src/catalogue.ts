/**
 * The flags that a program names, with types and fallbacks. It runs anywhere, so that a page and its service share one.
 *
 * @module iudex/catalogue
 */
export {
  type Catalogue,
  type CatalogueEntries,
  type CatalogueEntry,
  data,
  defineCatalogue,
  type FlagValue,
  type NameOf,
  number,
  type StandardSchemaV1,
  text,
  type ValueOf,
  yesNo,
} from "./catalogue/index.ts";
