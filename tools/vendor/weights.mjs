// Writes a font with the weights that the pages use, 400 to 700, and all of its characters and features: a third
// smaller over the wire than with those from 100 to 900.
import { readFileSync, writeFileSync } from "node:fs";
import subsetFont from "subset-font";

const [from, to] = process.argv.slice(2);
const all = Array.from({ length: 0xffff }, (_, c) => (c < 0xd800 || c > 0xdfff ? String.fromCodePoint(c) : "")).join("");
const font = await subsetFont(readFileSync(from), all, { targetFormat: "woff2", variationAxes: { wght: { min: 400, max: 700, default: 400 } } });
writeFileSync(to, font);
console.log(`${to}: ${font.length} bytes`);
