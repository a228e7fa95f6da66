/**
 * Bundle the scripts that templates name, so that a page asks for a few files and not for fifty: each under its own address,
 * and what several of them share in files of its own. Scripts import one another by the addresses that they have on a page.
 *
 * The bundles go to build/assets, which is looked through before the applications' own folders.
 */
import { existsSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { posix } from "node:path";
import { build } from "esbuild";

const OUT = "build/assets";
const NAMED = /static '([\w/-]+\.js)'/g;
const SHARED = "shared";

const SOURCE = "src/oido";

const files = readdirSync(SOURCE, { recursive: true, encoding: "utf8" }).map((name) => `${SOURCE}/${name}`);
const roots = [...files.filter((path) => /^src\/oido\/\w+\/static$/.test(path)), OUT];
const addressOf = (/** @type {string} */ path) => path.split("/static/").at(-1);

/** @param {string} address as on a page @returns {string} where the file is */
function fileOf(address) {
  const root = roots.find((one) => existsSync(`${one}/${address}`) && (one !== OUT || address.startsWith("vendor/")));
  if (!root) throw new Error(`no script has the address ${address}`);
  return `${process.cwd()}/${root}/${address}`;
}

const byAddress = {
  name: "by address",
  setup(/** @type {import("esbuild").PluginBuild} */ { onResolve }) {
    onResolve({ filter: /^\.\.?\// }, ({ path, importer }) => ({ path: fileOf(posix.join(posix.dirname(addressOf(importer) ?? ""), path)) }));
  },
};

const named = new Set(files.filter((path) => path.endsWith(".html")).flatMap((page) => [...readFileSync(page, "utf8").matchAll(NAMED)].map(([, address]) => address)));
rmSync(`${OUT}/${SHARED}`, { recursive: true, force: true });
await build({
  entryPoints: [...named].sort().map((address) => ({ in: fileOf(address), out: address.replace(/\.js$/, "") })),
  outdir: OUT, chunkNames: `${SHARED}/[name]-[hash]`,
  bundle: true, splitting: true, format: "esm", minify: true, target: "es2022", logLevel: "warning", plugins: [byAddress],
});
