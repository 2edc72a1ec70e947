// The flags that a program names in its code: types and fallbacks.
export {
  type Catalogue,
  type CatalogueEntry,
  data,
  defineCatalogue,
  type FlagValue,
  type NameOf,
  number,
  text,
  type ValueOf,
  type YesNoNameOf,
  yesNo,
} from "./catalogue.ts";
export type { StandardSchemaV1 } from "./standard-schema.ts";
