/**
 * The Standard Schema interface, version 1, as its specification publishes it for copying: what schema libraries have in
 * common. Only what is used here is kept.
 */
export interface StandardSchemaV1<Input = unknown, Output = Input> {
  readonly "~standard": StandardSchemaV1.Props<Input, Output>;
}

export declare namespace StandardSchemaV1 {
  /** What a schema library offers. */
  export interface Props<Input = unknown, Output = Input> {
    readonly version: 1;
    readonly vendor: string;
    /** Looks at a value. */
    readonly validate: (value: unknown) => Result<Output> | Promise<Result<Output>>;
    readonly types?: Types<Input, Output> | undefined;
  }

  /** What came of looking at a value. */
  export type Result<Output> = SuccessResult<Output> | FailureResult;

  /** The value, as the schema makes it. */
  export interface SuccessResult<Output> {
    readonly value: Output;
    readonly issues?: undefined;
  }

  /** What is wrong with the value. */
  export interface FailureResult {
    readonly issues: readonly Issue[];
  }

  /** One thing that is wrong, and where in the value. */
  export interface Issue {
    readonly message: string;
    readonly path?: readonly (PropertyKey | { readonly key: PropertyKey })[] | undefined;
  }

  /** The types that a schema stands for. */
  export interface Types<Input = unknown, Output = Input> {
    readonly input: Input;
    readonly output: Output;
  }

  /** The type of the values that a schema lets pass. */
  export type InferOutput<Schema extends StandardSchemaV1> = NonNullable<Schema["~standard"]["types"]>["output"];
}
