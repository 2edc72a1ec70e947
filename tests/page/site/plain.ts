import { followPage } from "iudex/page";
import { catalogue } from "./catalogue.ts";

const flags = followPage({ catalogue, first: "#flags", changes: "/changes", values: "/values", seen: "/seen" });
const show = () => {
  document.querySelector("#seats")!.textContent = `Seats: ${flags.value("seat-map")}`;
};
flags.subscribe(show);
show();
Object.assign(globalThis, { flags });
document.body.dataset["ready"] = "yes";
