// A process that runs the built binary as often as it is told to: what a start loads is loaded once.
// Each run evaluates the binary itself anew, with its own words, directory and exit code.
import { pathToFileURL } from "node:url";

const path = process.argv[2];
const binary = pathToFileURL(path);
let said = { out: "", err: "" };

process.stdout.write = (text) => keep("out", text);
process.stderr.write = (text) => keep("err", text);

function keep(stream, text) {
  said[stream] += text;
  return true;
}

let count = 0;
process.on("message", async ({ words, cwd }) => {
  said = { out: "", err: "" };
  process.chdir(cwd);
  process.argv = [process.execPath, path, ...words];
  process.exitCode = undefined;
  count += 1;
  try {
    await import(`${binary.href}?run=${count}`);
  } catch (error) {
    keep("err", `${error?.stack ?? error}\n`);
    process.exitCode = 1;
  }
  process.stdout.removeAllListeners("error");
  process.send({ code: process.exitCode ?? 0, ...said });
});
process.on("disconnect", () => process.exit());
