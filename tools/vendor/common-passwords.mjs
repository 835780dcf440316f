// Writes the list of common passwords that internal/doors ships: six letters and more, in small letters.
import { gzipSync } from "node:zlib";
import { readFileSync, writeFileSync } from "node:fs";

const [from, to] = process.argv.slice(2);
const list = new Set(JSON.parse(readFileSync(from, "utf8")).map((word) => word.toLowerCase()).filter((word) => word.length >= 6));
writeFileSync(to, gzipSync([...list].sort().join("\n") + "\n", { level: 9 }));
console.log(`${list.size} common passwords`);
