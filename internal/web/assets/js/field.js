// Who is best over two drivers: runs in the colours and marks of the faces, and the way that growth takes through
// them. Where the runs end comes worked out; only positions are found here.
import { line, scaleLinear, select } from "../vendor/d3.min.js";
import { colours } from "./costs.js";
import { startSheetSaving } from "./picture.js";

const left = 62, right = 16, top = 20, bottom = 44;
let plot = 340;

export function drawField(box, data) {
  box.replaceChildren();
  const width = box.clientWidth;
  if (!data?.rows?.length || !width) return;
  plot = Math.max(230, Math.min(380, innerHeight - 540));
  const height = top + plot + bottom;
  const highY = data.ys.at(-1);
  const x = scaleLinear([0, data.highX], [left, width - right]);
  const y = scaleLinear([0, highY], [top + plot, top]);
  const svg = select(box).append("svg").attr("viewBox", `0 0 ${width} ${height}`).attr("width", width).attr("height", height).attr("role", "img")
    .attr("aria-label", box.closest("figure")?.querySelector("figcaption")?.textContent ?? "");
  const names = new Map(data.names.map((one) => [one.face, one.name]));
  const g = svg.append("g").attr("class", "field-runs");
  // A row holds from half-way below its value to half-way above it.
  data.rows.forEach((runs, j) => {
    const low = j === 0 ? 0 : (data.ys[j - 1] + data.ys[j]) / 2, high = j === data.ys.length - 1 ? highY : (data.ys[j] + data.ys[j + 1]) / 2;
    for (const [a, b, face] of runs) {
      const run = g.append("rect").attr("x", x(a)).attr("width", Math.max(0.5, x(Math.min(data.highX, b + 1)) - x(a))).attr("y", y(high)).attr("height", y(low) - y(high));
      if (face) run.attr("fill", colours[(face - 1) % colours.length]).attr("fill-opacity", face > colours.length ? 0.2 : 0.34);
      else run.attr("class", "none-serves");
      const [from, to, at] = [a / data.partsX, b / data.partsX, data.ys[j] / data.partsY].map((v) => v.toLocaleString("en-GB"));
      run.append("title").text(`${names.get(face) ?? "nothing serves"}: ${from} to ${to}, at ${at}`);
    }
  });
  marks(svg, data, x, y);
  axes(svg, data, x, y, width);
  way(svg, data, x, y, width);
  const figure = box.closest("[data-lines-figure]");
  if (figure) startSheetSaving(figure, svg.node());
}

// marks sets each face into the parts that it has: where its runs are widest, one for each stretch of rows.
function marks(svg, data, x, y) {
  const stretches = [];
  data.rows.forEach((runs, j) => {
    for (const [a, b, face] of runs) {
      if (!face) continue;
      const with_ = stretches.find((s) => s.face === face && s.last === j - 1 && s.a <= b && s.b >= a);
      if (with_) { with_.last = j; with_.a = Math.max(with_.a, a); with_.b = Math.min(with_.b, b); with_.rows.push([a, b, j]); }
      else stretches.push({ face, last: j, a, b, rows: [[a, b, j]] });
    }
  });
  for (const s of stretches) {
    const [a, b, j] = s.rows[Math.floor(s.rows.length / 2)];
    const tall = s.rows.length * (plot / data.ys.length);
    if (x(b) - x(a) < 26 || tall < 22) continue;
    svg.append("use").attr("href", `#face-${s.face}`).attr("x", (x(a) + x(Math.min(b, data.highX))) / 2 - 11).attr("y", y(data.ys[j]) - 11).attr("width", 22).attr("height", 22);
  }
}

function axes(svg, data, x, y, width) {
  const g = svg.append("g").attr("class", "axis");
  for (const v of x.ticks(Math.max(2, Math.floor(width / 130)))) g.append("text").attr("x", x(v)).attr("y", top + plot + 17)
    .attr("text-anchor", x(v) > width - 40 ? "end" : "middle").text((v / data.partsX).toLocaleString("en-GB"));
  for (const v of y.ticks(6)) if (Number.isInteger(v)) g.append("text").attr("x", left - 8).attr("y", y(v) + 4).attr("text-anchor", "end")
    .text((v / data.partsY).toLocaleString("en-GB"));
  g.append("text").attr("class", "axis-name").attr("x", width - right).attr("y", top + plot + 36).attr("text-anchor", "end").text(data.labelX);
  g.append("text").attr("class", "axis-name").attr("x", 4).attr("y", 12).text(data.labelY);
}

function way(svg, data, x, y, width) {
  if (!data.path.length) return; // we stand outside of what is laid out
  const at = data.path.map(([a, b]) => [x(a), y(b)]);
  const g = svg.append("g").attr("class", "field-way");
  g.append("path").attr("d", line()(at));
  const [first, last] = [at[0], at.at(-1)];
  g.append("circle").attr("cx", first[0]).attr("cy", first[1]).attr("r", 4.5);
  g.append("path").attr("class", "tip").attr("d", `M${last[0] - 5} ${last[1] - 5}L${last[0] + 5} ${last[1]}L${last[0] - 5} ${last[1] + 5}Z`);
  g.append("text").attr("x", first[0]).attr("y", first[1] + 18).attr("text-anchor", first[0] < 90 ? "start" : first[0] > width - 60 ? "end" : "middle").text(data.start);
  if (Math.hypot(last[0] - first[0], last[1] - first[1]) > 60) g.append("text").attr("x", last[0] > width - 90 ? last[0] - 10 : last[0] + 10)
    .attr("y", last[1] - 8).attr("text-anchor", last[0] > width - 90 ? "end" : "start").text(data.end);
}
