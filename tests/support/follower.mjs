// Follows a folder shelf until it is killed.
import { followFlags } from "iudex";
import { folderShelf } from "iudex/fleet";

const [directory, set] = process.argv.slice(2);
await followFlags(folderShelf(directory, { set }), { environment: "production" });
process.send("follows");
// Following keeps no process alive.
setInterval(() => {}, 60_000);
