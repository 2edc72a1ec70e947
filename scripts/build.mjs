// npm run build: compiles src to dist.
import { build, ensureInstalled } from "./setup.mjs";

ensureInstalled();
await build();
