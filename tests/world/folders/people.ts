// People save files in every style there is, and some of them are slow.
import { world } from "../machine/clock.ts";
import { type Node, reach } from "../machine/disk.ts";
import { diskOf, mkdir, open, rename, rm, writeFile } from "../machine/fs.ts";
import type { SavedFile, Whole } from "./truth.ts";

export type Style = "aside" | "in place" | "in pieces" | "away and back";

export const styles: readonly Style[] = ["aside", "in place", "in pieces", "away and back"];

/** The longest pause between two pieces, in milliseconds: less than what counts as rest. */
const longestPause = 120;

/** Saves a file, and notes its state as soon as it is whole. */
export async function save(folder: string, file: SavedFile, state: Whole, style: Style): Promise<void> {
  const path = `${folder}/${file.name}`;
  const whole = () => void file.states.push(state);
  switch (style) {
    case "aside": {
      const aside = `${folder}/.${file.name.replace("/", "-")}.swp`;
      await writeFile(aside, state.text);
      await rename(aside, path);
      return whole();
    }
    case "in place":
      await writeFile(path, state.text);
      return whole();
    case "in pieces":
      await inPieces(path, state.text);
      return whole();
    case "away and back": {
      await rename(path, `${path}~`).catch(() => {});
      await writeFile(path, state.text);
      whole();
      return rm(`${path}~`, { force: true });
    }
  }
}

async function inPieces(path: string, text: string): Promise<void> {
  const file = await open(path, "w");
  const pieces = 2 + world.below(world.oneOf([3, 30]));
  const length = Math.ceil(text.length / pieces);
  for (let from = 0; from < text.length; from += length) {
    await file.write(Buffer.from(text.slice(from, from + length)));
    await world.sleep(world.random() * longestPause);
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
