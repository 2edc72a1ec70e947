import { isDateText } from "../../calendar/index.ts";
import { parsePath } from "../../language/index.ts";
import { inText, type ProblemDetails } from "../../problems/index.ts";
import { field } from "../object-shape.ts";
import { type Shape, text } from "../shape.ts";

// Texts that many keys hold: conditions, paths, instants, dates.

export const condition = text({
  expected: "a condition",
  isSound(value, walk) {
    if (value.trim() !== "") return true;
    walk.report("condition-empty", {
      message: "This condition is empty.",
      help: "leave the key out if everyone is meant",
    });
    return false;
  },
});

export const path = text({
  expected: "the path of an attribute, such as account.id",
  isSound(value, walk) {
    const { fault } = parsePath(value);
    if (!fault) return true;
    walk.problems.report("path-invalid", inText(walk.place(), fault.span), notAPath(value));
    return false;
  },
});

export function notAPath(value: string): ProblemDetails {
  return {
    message: `“${value}” is not a path of an attribute.`,
    found: value,
    expected: 'names joined by “.”, such as account.id, or claims["a name"]',
  };
}

export const about = (what: string) => field(text(), `What ${what} is for, in a sentence`);

export const zone = field(
  text({ expected: "the name of a time zone" }),
  "IANA time zone for local times, such as Atlantic/Faroe",
);

export const instant = text({ expected: "a date, or a date and time such as 2026-12-01T09:00" });

export const date = dateText();

/** @param help where something else was meant, mostly */
export function dateText(help?: string): Shape<string> {
  return text({
    expected: "a date such as 2026-12-25",
    isSound(value, walk) {
      if (isDateText(value)) return true;
      walk.report("time-invalid", {
        message: `“${value}” is not a date.`,
        found: value,
        expected: "an existing day as YYYY-MM-DD",
        help,
      });
      return false;
    },
  });
}
