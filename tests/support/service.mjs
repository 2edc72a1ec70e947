// A small service: says what its flag gives, and what happens to its definitions.
import { followFlags } from "iudex";

const awake = setInterval(() => {}, 1_000);
const flags = await followFlags(process.argv[2]);
console.log(`opened ${flags.value("a")}`);
flags.on("change", () => console.log(`changed ${flags.value("a")}`));
flags.on("rejected", ({ problems }) => console.log(`rejected ${problems[0].code} ${flags.value("a")}`));
process.on("SIGTERM", () => {
  clearInterval(awake);
  void flags.close();
});
