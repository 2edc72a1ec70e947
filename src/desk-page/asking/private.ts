import type { Definitions } from "../../model/index.ts";
import type { IsPrivate } from "./address.ts";

/** While nothing is known of the definitions, everything counts as private. */
export function isPrivateIn(definitions: Definitions | undefined): IsPrivate {
  return (attribute) => definitions === undefined || definitions.attributes.get(attribute)?.private === true;
}
