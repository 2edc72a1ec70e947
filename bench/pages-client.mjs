// Opens as many streams as it is told, each for a person of its own, and sends a word whenever all have one more event.
import { get } from "node:http";

const [port, pages] = process.argv.slice(2).map(Number);
let events = 0;
for (let i = 0; i < pages; i++) {
  get({ port, agent: false, headers: { person: `A-${i}` } }, (response) => {
    response.setEncoding("utf8");
    response.on("data", (text) => {
      events += text.split("event: flags").length - 1;
      if (text.includes("event: flags") && events % pages === 0) process.send("all");
    });
    response.on("error", () => {});
  }).on("error", () => {});
}
