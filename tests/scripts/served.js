import { existsSync, readdirSync } from "node:fs";
import { fileURLToPath, pathToFileURL } from "node:url";

const APPS = fileURLToPath(new URL("../../src/oido/", import.meta.url));
const STATIC = /^file:.*\/src\/oido\/\w+\/static\//;

/** @param {string} specifier @param {{parentURL?: string}} context @param {any} next */
export async function resolve(specifier, context, next) {
  const from = context.parentURL ?? "";
  if (specifier.startsWith(".") && STATIC.test(from)) {
    // Built at installation, out of a package.
    if (specifier.endsWith("vendor/idb.js")) return { url: new URL("idb.js", import.meta.url).href, shortCircuit: true };
    const served = new URL(specifier, from.replace(STATIC, "file:///")).pathname;
    for (const app of readdirSync(APPS)) {
      const file = `${APPS}${app}/static${served}`;
      if (existsSync(file)) return { url: pathToFileURL(file).href, shortCircuit: true };
    }
  }
  return next(specifier, context);
}
