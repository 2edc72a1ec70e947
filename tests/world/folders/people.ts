// People save files in every style there is, and some of them are slow.
import { world } from "../machine/clock.ts";
import { type Node, reach } from "../machine/disk.ts";
import { diskOf, mkdir, open, rename, rm, writeFile } from "../machine/fs.ts";
import type { SavedFile, Whole } from "./truth.ts";

export type Style = "aside" | "in place" | "in pieces" | "away and back";

export const styles: readonly Style[] = ["aside", "in place", "in pieces", "away and back"];

/** The longest pause between two pieces, in milliseconds: less than what counts as rest. */
const longestPause = 120;

/** Saves a file, and notes its state at the moment from which it may be read whole. */
export async function save(folder: string, file: SavedFile, state: Whole, style: Style): Promise<void> {
  const path = `${folder}/${file.name}`;
  const isWhole = () => void file.states.push(state);
  try {
    switch (style) {
      case "aside":
        return await aside(folder, file.name, state.text, isWhole);
      case "in place":
        isWhole();
        return await writeFile(path, state.text);
      case "in pieces":
        return await inPieces(path, state.text, isWhole);
      case "away and back":
        await rename(path, `${path}~`).catch(() => {});
        isWhole();
        await writeFile(path, state.text);
        return await rm(`${path}~`, { force: true }).catch(() => {});
    }
  } catch (error) {
    // It is not known what is there now: somebody saves it once more.
    if (file.states.includes(state)) file.states.splice(file.states.indexOf(state), 1);
    throw error;
  }
}

async function aside(folder: string, name: string, text: string, isWhole: () => void): Promise<void> {
  const path = `${folder}/.${name.replace("/", "-")}.swp`;
  await writeFile(path, text);
  isWhole();
  await rename(path, `${folder}/${name}`);
}

async function inPieces(path: string, text: string, isWhole: () => void): Promise<void> {
  const file = await open(path, "w");
  const pieces = 2 + world.below(world.oneOf([3, 30]));
  const length = Math.ceil(text.length / pieces);
  for (let from = 0; from < text.length; from += length) {
    await world.sleep(world.random() * longestPause);
    if (from + length >= text.length) isWhole();
    await file.write(Buffer.from(text.slice(from, from + length)));
  }
  await file.close();
}

/** A folder that is a link, as mounts of orchestrators turn it: all of its files change at once. */
export async function turn(above: string, name: string, texts: ReadonlyMap<string, string>): Promise<void> {
  const version = `${above}/..version-${world.below(1e9)}`;
  await mkdir(`${version}/lists`, { recursive: true });
  for (const [file, text] of texts) await writeFile(`${version}/${file}`, text);
  const { folder } = reach(diskOf(world.process.machine).root, `${above}/${name}`, false);
  const before = folder.entries.get(name);
  folder.disk.enter(folder, name, linkTo(folder, version));
  if (before?.kind === "link") await rm(before.target, { recursive: true, force: true }).catch(() => {});
}

function linkTo(folder: Node, target: string): Node {
  return folder.disk.make("link", { target });
}
