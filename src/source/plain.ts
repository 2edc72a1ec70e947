import { findNotPlain, limits, type PlainFault } from "../values/index.ts";
import type { Walk } from "./walk.ts";

/** Looks into a value that a file holds freely; reports what is not plain data, and tells whether it is. */
export function isPlainValue(value: unknown, walk: Walk): boolean {
  const needsLook =
    (typeof value === "object" && value !== null) || (typeof value === "number" && !Number.isFinite(value));
  const fault = needsLook ? findNotPlain(value, [...walk.path]) : undefined;
  if (fault) reportNotPlain(fault, walk);
  return fault === undefined;
}

export function reportNotPlain({ path, fault }: PlainFault, { problems, file }: Walk): void {
  const place = { file, path };
  if (fault === "depth") {
    problems.report("too-deep", place, {
      message: "The file is nested too deeply here.",
      expected: `at most ${limits.depth} levels`,
    });
  } else {
    problems.report(fault === "number" ? "number-not-finite" : "wrong-type", place, {
      message: fault === "number" ? "This number is not finite." : "This is not plain data.",
      expected: "texts, numbers, yes-nos, lists and objects",
    });
  }
}
