/**
 * The three answers of a test, numbered so that Kleene's strong logic is arithmetic: `and` is the smaller, `or` the
 * larger, `not` is 2 − answer.
 */
export type Answer = 0 | 1 | 2;

export const FALSE = 0;
export const UNDECIDED = 1;
export const TRUE = 2;

/** One of the three answers of a test. */
export type AnswerWord = "false" | "undecided" | "true";

const words: readonly AnswerWord[] = ["false", "undecided", "true"];

export function answerWord(answer: Answer): AnswerWord {
  return words[answer]!;
}

export function yes(holds: boolean): Answer {
  return holds ? TRUE : FALSE;
}

export function opposite(answer: Answer): Answer {
  return (2 - answer) as Answer;
}
