/** A JSON Web Key (RFC 7517). CommonJS programs read its type from the module that it stands in. */
export type JWK = import("jose", { with: { "resolution-mode": "import" }}).JWK;

/** A set of JSON Web Keys (RFC 7517) by which passes, editions or stops are verified. */
export interface KeySet {
  readonly keys: readonly JWK[];
}

/** A set of keys, or a function that gives that of the moment, so that keys can rotate. */
export type Keys = KeySet | (() => KeySet | Promise<KeySet>);
