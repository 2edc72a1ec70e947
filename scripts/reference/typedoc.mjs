// Writes the reference of the public interface: a page of Markdown for each entry. Warns of names without a word.
import { readFileSync, renameSync, rmSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import { Application, LogLevel } from "typedoc";

const root = join(import.meta.dirname, "../..");

/** @returns {Promise<string[]>} what is wrong: public names that nothing is said of, links that lead nowhere */
export async function writeReference(out) {
  const app = await Application.bootstrapWithPlugins({
    entryPoints: [
      ...["index", "catalogue", "core", "desk", "fleet", "http", "page", "page-react", "testing", "tools"].map(
        (entry) => join(root, "src", `${entry}.ts`),
      ),
      join(import.meta.dirname, "parts.ts"),
    ],
    tsconfig: join(root, "tsconfig.json"),
    plugin: ["typedoc-plugin-markdown"],
    out,
    readme: "none",
    name: "Iudex",
    disableSources: true,
    excludeInternal: true,
    excludePrivate: true,
    excludeExternals: true,
    // The tests of a condition's tree, and what a folder is read into: to be looked at, not to be made.
    intentionallyNotExported: [
      "attributeTypes",
      "AttributeTest",
      "MembershipTest",
      "WindowTest",
      "FolderContent",
      "ObjectType",
    ],
    skipErrorChecking: true,
    gitRevision: "main",
    logLevel: "Warn",
    validation: { notExported: true, invalidLink: true, notDocumented: true },
    requiredToBeDocumented: ["Class", "Interface", "Function", "TypeAlias", "Variable", "Method", "Accessor"],
    // Of typedoc-plugin-markdown.
    outputFileStrategy: "modules",
    entryFileName: "README.md",
    hidePageHeader: true,
    hideBreadcrumbs: true,
    useCodeBlocks: true,
    expandObjects: false,
    parametersFormat: "table",
    interfacePropertiesFormat: "table",
    propertyMembersFormat: "table",
    typeDeclarationFormat: "table",
  });
  const said = [];
  app.logger.log = (message, level) => level >= LogLevel.Warn && said.push(message);
  const project = await app.convert();
  if (!project) return [...said, "The sources cannot be read."];
  app.validate(project);
  rmSync(out, { recursive: true, force: true });
  await app.generateOutputs(project);
  // Its name is told apart from that of a type, which only matters where each type has a page.
  renameSync(join(out, "iudex/catalogue-1.md"), join(out, "iudex/catalogue.md"));
  const index = join(out, "README.md");
  writeFileSync(index, readFileSync(index, "utf8").replace("iudex/catalogue-1.md", "iudex/catalogue.md"));
  return said;
}

if (process.argv[1] === import.meta.filename) {
  const said = await writeReference(process.argv[2] ?? join(root, "docs/api"));
  for (const line of said) console.error(line);
  process.exitCode = said.length > 0 ? 1 : 0;
}
