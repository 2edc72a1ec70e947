import type { Answer } from "../values/index.ts";
import type { Question } from "./question.ts";

/** A compiled condition or a part of one. */
export type Ask = (question: Question) => Answer;
