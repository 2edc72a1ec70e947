// Shelves of this world: in a folder that all machines see, behind web servers, in an engine.
import { Shelf } from "../../../src/follow/index.ts";
import { folderPlace, type ListName, webPlace } from "../../../src/shelf/index.ts";
import { world } from "../machine/clock.ts";
import { Disk, soundDisk } from "../machine/disk.ts";
import { Engine, soundEngine } from "../machine/engine.ts";
import { mount } from "../machine/fs.ts";
import { Server, serve, soundNet } from "../machine/net.ts";

/** A shelf, and all that can go wrong with it. */
export interface ShelfStand {
  readonly kind: "folder" | "web" | "engine";
  /** Milliseconds between two looks. */
  readonly every: number;
  /** By when every healthy follower has what was put, and by when a stop is in force, in milliseconds. */
  readonly healed: number;
  readonly prompt: number;
  /** Called for each machine before anything else. */
  join(machine: string): void;
  following(): Shelf;
  publishing(): Shelf;
  /** Something goes wrong for a machine, or for all. */
  fail(machine: string): void;
  heal(): void;
  /** Every list that stands, by number: the truth that followers are held against. */
  lists(name: ListName): Map<number, string>;
}

export function anyStand(): ShelfStand {
  const kind = world.oneOf(["folder", "web", "engine"] as const);
  return kind === "folder" ? inFolder() : kind === "web" ? onWeb() : inEngine();
}

const files = "/shelf/flags";

function sharedDisk(): Disk {
  const disk = new Disk();
  disk.tick = world.oneOf([1, 10, 1_000, 2_000]);
  disk.ahead = world.oneOf([0, 0, -3_600_000, 3_600_000]);
  disk.enter(disk.root, "flags", disk.make("folder"));
  return disk;
}

function inFolder(): ShelfStand {
  const disk = sharedDisk();
  const every = world.oneOf([1_000, 10_000, 10_000]);
  return {
    kind: "folder",
    every,
    healed: 2 * every + 20_000,
    prompt: 2 * every + 2_500,
    join: (machine) => mount(machine, "shelf", disk),
    following: () => Shelf.at(folderPlace(files, { every })),
    publishing: () => Shelf.at(folderPlace(files)),
    fail: () => {
      Object.assign(
        disk.faults,
        world.oneOf<object>([
          { slow: 2_000 },
          { slow: 12_000 },
          { full: true },
          { refuses: "writing" },
          { refuses: "everything" },
          { lost: 1 },
          { lost: 0.5, twice: 0.5, late: 30_000 },
        ]),
      );
    },
    heal: () => Object.assign(disk.faults, soundDisk),
    lists: (name) => listsOn(disk, name),
  };
}

function listsOn(disk: Disk, name: ListName): Map<number, string> {
  const lists = new Map<number, string>();
  const folder = name === "edition" ? "editions" : "stops";
  const entries = disk.root.entries.get("flags")!.entries.get(folder)?.entries ?? new Map();
  for (const [file, { bytes }] of entries)
    if (/^\d+\.json$/.test(file)) lists.set(Number.parseInt(file, 10), bytes.toString("utf8"));
  return lists;
}

function onWeb(): ShelfStand {
  const disk = sharedDisk();
  const server = new Server(disk, "/flags");
  const origin = "https://config.ternhaven.example";
  serve(origin, server);
  const every = world.oneOf([10_000, 10_000, 60_000]);
  const cached = world.oneOf([0, 0, 5_000, 30_000]);
  const sound = { ...soundNet, cached };
  return {
    kind: "web",
    every,
    healed: every + 2 * cached + 40_000,
    prompt: every + cached + 5_000,
    join: (machine) => {
      mount(machine, "shelf", disk);
      Object.assign(server.faultsFor(machine), sound);
    },
    following: () => Shelf.at(webPlace(`${origin}/`, { every })),
    publishing: () => Shelf.at(folderPlace(files)),
    fail: (machine) => {
      Object.assign(
        server.faultsFor(machine),
        world.oneOf<object>([
          { away: "refused" },
          { away: "silent" },
          { slow: 15_000 },
          { cut: 0.5 },
          { garbled: 0.5 },
          { busy: 0.7 },
          { busy: 1 },
          { trickle: 20 },
          { slow: 500, cut: 0.2, busy: 0.2, garbled: 0.1 },
        ]),
      );
    },
    heal: () => {
      for (const faults of server.faults.values()) Object.assign(faults, sound);
    },
    lists: (name) => listsOn(disk, name),
  };
}

function inEngine(): ShelfStand {
  const engine = new Engine();
  const every = world.oneOf([1_000, 10_000, 10_000]);
  return {
    kind: "engine",
    every,
    healed: every + 20_000,
    prompt: 1_000,
    join: () => {},
    following: () => Shelf.at(engine.place(every)),
    publishing: () => Shelf.at(engine.place(every)),
    fail: () => {
      if (world.chance(0.2)) return engine.restart();
      Object.assign(
        engine.faults,
        world.oneOf<object>([
          { away: "refused" },
          { away: "silent" },
          { slow: 3_000 },
          { lost: 1 },
          { unsaid: 0.7 },
          { slow: 200, lost: 0.3, unsaid: 0.2 },
        ]),
      );
    },
    heal: () => Object.assign(engine.faults, soundEngine),
    lists: (name) => engine.lists[name],
  };
}
