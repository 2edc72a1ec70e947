/** What was not compared, counted. */
export interface LeftOut {
  readonly people: {
    readonly overriddenBefore: number;
    /** Who came in before `from`, or not before `until`. */
    readonly outsideDates: number;
    /** Whose time of `within` does not end before the span or `until`. */
    readonly withinNotOver: number;
  };
  /** Rows. */
  readonly verdicts: {
    readonly unreadableLines: number;
    readonly otherEnvironments: number;
    readonly withoutInstant: number;
    readonly withoutId: number;
    /** "•••". */
    readonly privateIds: number;
    /** By an id that is not the one the rule draws. */
    readonly otherIds: number;
    /** Of a variant that the split does not have. */
    readonly otherVariants: number;
    /** Sent to pages, which perhaps nobody saw; counted where there is nothing else. */
    readonly sentOnly: number;
    /** Before the groups were what they are now. */
    readonly beforeChange: number;
  };
  /** Rows. */
  readonly outcomes: {
    readonly unreadableLines: number;
    readonly withoutInstant: number;
    readonly withoutId: number;
    /** Of somebody whom the rule did not divide, or who is left out. */
    readonly ofOthers: number;
    readonly beforeFirstVerdict: number;
    /** After the span, or the time of `within`. */
    readonly afterEnd: number;
    /** The same row once more. */
    readonly repeated: number;
    readonly notANumber: number;
    /** Without a value, of a measure that has values. */
    readonly withoutValue: number;
  };
}
