import type { Fault } from "../problems/index.ts";
import type { SchemaSource } from "../source/index.ts";

/** Where in a value something is wrong, and what. */
export interface SchemaFault {
  /** Keys and indexes from the top of the value. */
  readonly path: readonly (string | number)[];
  readonly message: string;
}

/** A schema that can be used, or why it cannot be. */
export type CompiledSchema =
  | {
      /** What is wrong with a value; undefined where it keeps the schema. */
      readonly faultOf: (value: unknown) => SchemaFault | undefined;
      readonly fault?: undefined;
    }
  | { readonly fault: SchemaProblem };

/** What is wrong with a schema itself, and where in it; without a path, with the file that it names. */
export interface SchemaProblem extends Fault {
  readonly path?: readonly (string | number)[] | undefined;
}

/** The port through which values are held against JSON Schemas: the core has no validator of its own. */
export interface SchemaPort {
  /** Takes the schema as a flag holds it: itself, or `{ file: … }`. */
  compile(schema: SchemaSource): CompiledSchema;
}
