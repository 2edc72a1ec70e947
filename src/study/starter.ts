import { mkdir, readdir, readFile, stat, writeFile } from "node:fs/promises";
import { dirname, join, relative, resolve } from "node:path";
import { localOverridesFile, reasonOf, ToolError } from "../files/index.ts";

/** What was made, as paths relative to where it was asked for. */
export interface Starter {
  readonly made: readonly string[];
}

/**
 * A folder to begin with: one flag, a line by which editors find the schema, a few made-up people to count on, and a
 * git-ignore line for a developer's own overrides. Nothing that is there already is written over.
 */
export async function makeStarter(folder: string): Promise<Starter> {
  const found = await stat(folder).catch(() => undefined);
  if (found && !found.isDirectory())
    throw new ToolError(`“${folder}” is a file.`, "name a folder that is not there yet");
  const holds = found ? (await readdir(folder)).filter((name) => !name.startsWith(".")) : [];
  if (holds.length > 0) {
    throw new ToolError(`“${folder}” holds files already.`, "name a folder that is empty, or not there yet");
  }
  try {
    return await made(folder);
  } catch (error) {
    throw new ToolError(`“${folder}” cannot be made: ${reasonOf(error)}.`, "name a folder that you may write in");
  }
}

async function made(folder: string): Promise<Starter> {
  await mkdir(folder, { recursive: true });
  const flags = join(folder, "flags.yaml");
  const ignore = join(folder, ".gitignore");
  await writeFile(flags, starterFile(await schemaFor(folder)), { flag: "wx" });
  const people = join(folder, "people.csv");
  await writeFile(people, starterPeople, { flag: "wx" });
  const paths = [flags, people];
  const ignored = await readFile(ignore, "utf8").catch(() => "");
  if (!ignored.split("\n").includes(localOverridesFile)) {
    await writeFile(ignore, `${ignored}${ignored === "" || ignored.endsWith("\n") ? "" : "\n"}${localOverridesFile}\n`);
    paths.push(ignore);
  }
  return { made: paths };
}

/** The schema as it lies in the nearest package's dependencies. */
async function schemaFor(folder: string): Promise<string> {
  const here = resolve(folder);
  for (let at = dirname(here); ; at = dirname(at)) {
    const isProject = await stat(join(at, "package.json")).catch(() => undefined);
    if (isProject || at === dirname(at)) {
      const base = isProject ? at : dirname(here);
      return relative(here, join(base, "node_modules/iudex/schema.json")).replaceAll("\\", "/");
    }
  }
}

function starterFile(schema: string): string {
  return `# yaml-language-server: $schema=${schema}
iudex: 1

environments:
  local: { about: A developer's own machine, local-overrides: true }
  production: { about: What customers see, passes: [new-greeting] }

flags:
  new-greeting:
    about: A friendlier first line on the start page
    lifespan: passing          # to be removed one day
    safe: false                # the value that does no harm
    rules:
      - name: the team first
        when: email ends with "@our-company.example"
        give: true
      - name: one in ten
        share: 10%
        by: email
        give: true
    environments:
      local: { otherwise: true }
    for-instance:              # “iudex check” runs these
      - { as: { email: somebody@our-company.example }, gives: true }
      - { as: {}, in: production, gives: false }
`;
}

const starterPeople = `email,plan
somebody@our-company.example,team
ada@home.example,basic
ben@home.example,basic
cem@away.example,plus
`;
