// How much script the first screen loads: the page's module, what it imports
// at once, and the room that it opens in.
import { readFileSync, readdirSync } from "node:fs";
import { gzipSync } from "node:zlib";

const dist = new URL("../ui/dist/", import.meta.url);
const seen = new Set();
const follow = (name) => {
  if (seen.has(name)) return;
  seen.add(name);
  const text = readFileSync(new URL(`assets/${name}`, dist), "utf8");
  for (const m of text.matchAll(/(?:from|import)\s*["']\.\/([\w.-]+\.js)["']/g)) follow(m[1]);
};
const html = readFileSync(new URL("index.html", dist), "utf8");
for (const m of html.matchAll(/assets\/([\w.-]+\.js)/g)) follow(m[1]);
for (const name of readdirSync(new URL("assets/", dist))) if (/^Today-.*\.js$/.test(name)) follow(name);
let bytes = 0;
for (const name of seen) bytes += gzipSync(readFileSync(new URL(`assets/${name}`, dist)), { level: 9 }).length;
console.log(`${(bytes / 1000).toFixed(1)} kB in ${seen.size} files`);
