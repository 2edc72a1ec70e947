// The texts of the files that are made from the code.

/** @returns {Promise<Record<string, string>>} text by path from the project's top */
export async function generatedFiles() {
  const { definitionSchema, problemCatalogue } = await import("iudex/core");
  return {
    "schema.json": `${JSON.stringify(definitionSchema(), undefined, 2)}\n`,
    "docs/problems.md": problemsPage(problemCatalogue),
  };
}

function problemsPage(catalogue) {
  const kinds = Object.entries(catalogue);
  const table = (rows) =>
    [
      "| code | what it means | what to do |",
      "| --- | --- | --- |",
      ...rows.map(([code, { meaning, remedy }]) => `| \`${code}\` | ${meaning} | ${remedy} |`),
    ].join("\n");
  const errors = kinds.filter(([, kind]) => kind.severity === "error" && kind.blocks !== false);
  const reports = kinds.filter(([, kind]) => kind.severity === "error" && kind.blocks === false);
  const warnings = kinds.filter(([, kind]) => kind.severity === "warning");
  return `# Problems

Every problem that reading and checking can find, by its code. Codes are stable: they are what \`--json\` and
\`problems\` carry, and what a script may rely on. Each problem also says what was found, where, and what was expected.

## Errors

These keep a set from being used; a running service goes on with the definitions it has.

${table(errors)}

## Errors that leave the set usable

\`iudex check\` fails on them, a running service reports them and goes on with the new definitions.

${table(reports)}

## Warnings

Suspicious without being wrong. The warnings of the analysis carry a proof in their message.

${table(warnings)}
`;
}
