import type { Log, ReportingDescriptor, Result } from "sarif";
import type { LocatedProblem } from "../files/index.ts";
import { problemCatalogue } from "../problems/index.ts";

/**
 * Problems as a SARIF 2.1.0 log (OASIS), which code hosts show in the change itself.
 *
 * @param path a file's path as the repository knows it, with forward slashes
 */
export function sarifLog(problems: readonly LocatedProblem[], path: (file: string) => string, version: string): Log {
  const codes = [...new Set(problems.map(({ code }) => code))].sort();
  return {
    $schema: "https://json.schemastore.org/sarif-2.1.0.json",
    version: "2.1.0",
    runs: [
      {
        tool: { driver: { name: "iudex", semanticVersion: version, rules: codes.map(ruleOf) } },
        columnKind: "utf16CodeUnits",
        results: problems.map((problem) => resultOf(problem, codes.indexOf(problem.code), path)),
      },
    ],
  };
}

function ruleOf(code: LocatedProblem["code"]): ReportingDescriptor {
  const { meaning, remedy, severity } = problemCatalogue[code];
  return {
    id: code,
    shortDescription: { text: meaning },
    help: { text: remedy },
    defaultConfiguration: { level: severity },
  };
}

function resultOf(problem: LocatedProblem, ruleIndex: number, path: (file: string) => string): Result {
  const { code, severity, message, expected, help, file, line, column, endLine, endColumn, related } = problem;
  const text = [message, expected && `Expected: ${expected}.`, help && `Help: ${help}`].filter(Boolean).join(" ");
  // A region of no width is none, so it takes in one character.
  const end = endLine === line ? Math.max(endColumn, column + 1) : endColumn;
  return {
    ruleId: code,
    ruleIndex,
    level: severity,
    message: { text },
    locations: [
      {
        physicalLocation: {
          artifactLocation: { uri: encodeURI(path(file)) },
          region: { startLine: line, startColumn: column, endLine, endColumn: end },
        },
      },
    ],
    ...(related
      ? {
          relatedLocations: related.map((r) => ({
            message: { text: r.message },
            physicalLocation: {
              artifactLocation: { uri: encodeURI(path(r.file)) },
              region: { startLine: r.line, startColumn: r.column },
            },
          })),
        }
      : {}),
  };
}
