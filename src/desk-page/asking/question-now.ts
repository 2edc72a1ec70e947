import { type Signal, signal } from "@preact/signals";
import { allFlags, everyone, type Question } from "./question.ts";

const first: Question = {
  asked: { whom: everyone, environment: undefined, at: undefined, by: "files" },
  against: undefined,
  shown: allFlags,
};

/** What the page answers. */
export const question: Signal<Question> = signal(first);
