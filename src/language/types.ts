/** The types that an attribute can be declared with, or a list of the texts that it can be. */
export const attributeTypes = ["text", "number", "yes-no", "list", "version", "time"] as const;
export type AttributeTypeName = (typeof attributeTypes)[number];
export type AttributeType = AttributeTypeName | readonly string[];
