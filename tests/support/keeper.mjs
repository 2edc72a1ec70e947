// Opens a folder over and over, and so keeps one copy of its definitions after the other, until it is killed.
import { followFlags } from "iudex";

const [folder, lastGood] = process.argv.slice(2);
process.send("ready");
for (;;) await (await followFlags(folder, { lastGood, watch: false })).close();
