// Keeps copies of a folder's definitions over and over, until it is killed.
import { readFolder } from "../../dist/folder/index.js";
import { keepCopy } from "../../dist/folder/last-good.js";

const [folder, kept] = process.argv.slice(2);
const content = await readFolder(folder);
process.send("ready");
for (;;) await keepCopy(kept, content);
