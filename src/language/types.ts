/** The types that an attribute can be declared with, or a list of the texts that it can be. */
export const attributeTypes = ["text", "number", "yes-no", "list", "version", "time"] as const;
/** The name of a type. */
export type AttributeTypeName = (typeof attributeTypes)[number];
/** A type by its name, or the texts that an attribute can be. */
export type AttributeType = AttributeTypeName | readonly string[];
