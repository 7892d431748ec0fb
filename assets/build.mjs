// Builds the styles and copies scripts and fonts to the static files. Run `npm ci && npm run build` in this folder.
import { execFileSync } from "node:child_process";
import { copyFileSync, mkdirSync, readFileSync, writeFileSync } from "node:fs";

const to = "../src/eyot/shared/static";
const from = "node_modules";
const copies = {
  "htmx.org/dist/htmx.min.js": "js/htmx.min.js",
  "axe-core/axe.min.js": "../../../../tests/journeys/vendor/axe.min.js",
  "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-normal.woff2": "fonts/next.woff2",
  "@fontsource-variable/atkinson-hyperlegible-next/files/atkinson-hyperlegible-next-latin-wght-italic.woff2": "fonts/next-italic.woff2",
  "@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-400-normal.woff2": "fonts/mono.woff2",
  "@fontsource/atkinson-hyperlegible-mono/files/atkinson-hyperlegible-mono-latin-700-normal.woff2": "fonts/mono-bold.woff2",
  "@fontsource/old-standard-tt/files/old-standard-tt-latin-400-normal.woff2": "fonts/standard.woff2",
  "@fontsource/old-standard-tt/files/old-standard-tt-latin-400-italic.woff2": "fonts/standard-italic.woff2",
};
for (const folder of ["css", "js", "fonts"]) mkdirSync(`${to}/${folder}`, { recursive: true });
for (const [source, target] of Object.entries(copies)) copyFileSync(`${from}/${source}`, `${to}/${target}`);
writeFileSync(`${to}/js/idb.js`, `// @ts-nocheck\n${readFileSync(`${from}/idb/build/index.js`, "utf8")}`); // its types stand in another file
execFileSync("python3", ["current.py", "--classes"], { stdio: "inherit" });
execFileSync("node_modules/.bin/tailwindcss", ["-i", "eyot.css", "-o", `${to}/css/eyot.css`, "--minify"], { stdio: "inherit" });
execFileSync("python3", ["current.py", "--write"], { stdio: "inherit" });
