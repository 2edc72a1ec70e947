// One part of a build, in a process of its own.
import { bundleCommonJs, bundleModules, describeCommonJs } from "./bundle.mjs";
import { buildDesk } from "./desk-build.mjs";

const parts = {
  modules: bundleModules,
  commonjs: bundleCommonJs,
  desk: buildDesk,
  // When the rest is there.
  declarations: describeCommonJs,
};

await parts[process.argv[2]]();
