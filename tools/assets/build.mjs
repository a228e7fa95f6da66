/**
 * Build what the pages need from the libraries into build/assets: fonts, Bootstrap, the synthesizer
 * worklet and the sound bank. Run by ./oido; needs node_modules and Debian's sound bank.
 */
import { execFileSync } from "node:child_process";
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { build } from "esbuild";
import { soundBanks } from "./bank.mjs";

const OUT = "build/assets";
const MODULES = "node_modules";
const FONTS = [
  ["newsreader", ["opsz-normal", "opsz-italic"]],
  ["atkinson-hyperlegible-next", ["wght-normal", "wght-italic"]],
];
const SUBSETS = ["latin", "latin-ext"];

rmSync(OUT, { recursive: true, force: true });
for (const folder of ["fonts", "vendor", "sound"]) mkdirSync(`${OUT}/${folder}`, { recursive: true });

for (const [font, styles] of FONTS) {
  const folder = `${MODULES}/@fontsource-variable/${font}`;
  for (const style of styles) {
    for (const subset of SUBSETS) {
      cpSync(`${folder}/files/${font}-${subset}-${style}.woff2`, `${OUT}/fonts/${font}-${subset}-${style}.woff2`);
    }
  }
  cpSync(`${folder}/LICENSE`, `${OUT}/fonts/${font}-LICENSE.txt`);
}

execFileSync(".venv/bin/python", ["tools/assets/fonts.py", `${MODULES}/@fontsource-variable/newsreader/files`, `${OUT}/fonts`], { stdio: ["ignore", "ignore", "inherit"] });

const bootstrap = readFileSync(`${MODULES}/bootstrap/dist/css/bootstrap.min.css`, "utf8");
writeFileSync(`${OUT}/vendor/bootstrap.css`, bootstrap.replace(/\/\*# sourceMappingURL=.*\*\//, ""));

const common = { bundle: true, format: "esm", minify: true, legalComments: "inline", logLevel: "warning" };
await build({
  ...common,
  entryPoints: ["src/oido/common/worklet/synth.js"],
  outfile: `${OUT}/sound/synth.js`,
});
await build({ ...common, entryPoints: [`${MODULES}/idb/build/index.js`], outfile: `${OUT}/vendor/idb.js` });

const { all, sounds } = await soundBanks();
writeFileSync(`${OUT}/sound/bank.sf3`, all);
for (const [name, { first, full }] of Object.entries(sounds)) {
  if (first) writeFileSync(`${OUT}/sound/first-${name}.sf3`, first);
  writeFileSync(`${OUT}/sound/full-${name}.sf3`, full);
}
cpSync("/usr/share/doc/musescore-general-soundfont-small/copyright", `${OUT}/sound/bank-LICENSE.txt`);
