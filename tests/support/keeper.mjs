// Keeps copies of a folder's definitions over and over, until it is killed.
import { readFolder } from "../../dist/files/index.js";
import { keepCopy } from "../../dist/files/last-good.js";

const [folder, kept] = process.argv.slice(2);
const content = await readFolder(folder);
process.send("ready");
for (;;) await keepCopy(kept, content);
