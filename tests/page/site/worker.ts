import { followPage } from "iudex/page";
import { catalogue } from "./catalogue.ts";

// In a worker there is neither a document nor a window.
const flags = followPage({ catalogue, changes: "/changes" });
const tell = () => postMessage(flags.value("seat-map"));
flags.subscribe(tell);
tell();
