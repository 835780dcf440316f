// Lines along a driver: what each plan costs, step by step. All amounts and turns come worked out; only
// positions are found here.
import { axisBottom, axisLeft, scaleLinear, select } from "../vendor/d3.min.js";
import { startSheetSaving } from "./picture.js";
import { colours } from "./costs.js";

const shades = ["#1C6E5F", "#8A5A0B", "#2E5590", "#B0402A", "#6D3E78", "#4B5560", "#56751A", "#A8326E"];
const dashes = ["", "6 3", "2 3", "9 3 2 3"];
const left = 58, right = 92, top = 14, bottom = 34, height = 210;

export function drawCurve(box, data) {
  box.replaceChildren();
  const width = Math.max(260, box.clientWidth);
  if (!data?.series?.length || !box.clientWidth) return;
  const most = Math.max(1, ...data.series.flatMap((one) => one.parts.flatMap((part) => [part[1], part[3]])));
  const room = width < 420 ? 20 : right;
  const x = scaleLinear([data.low, data.high], [left, width - room]);
  const y = scaleLinear([0, most], [height - bottom, top]).nice(4);
  const svg = select(box).append("svg").attr("viewBox", `0 0 ${width} ${height}`).attr("width", width).attr("height", height).attr("role", "img")
    .attr("aria-label", box.closest("figure")?.querySelector("figcaption")?.textContent ?? "");
  const amount = (v) => data.sign + v.toLocaleString("en-GB");
  const down = svg.append("g").attr("class", "axis").attr("transform", `translate(${left} 0)`).call(axisLeft(y).ticks(4).tickSize(-(x(data.high) - left)).tickPadding(6).tickFormat(amount));
  down.select(".domain").remove();
  const along = axisBottom(x).tickSize(4);
  if (data.ticks) along.tickValues(data.ticks.map((tick) => tick.x)).tickFormat((v) => data.ticks.find((tick) => tick.x === v)?.label ?? "");
  else along.ticks(Math.max(2, Math.floor(width / 110))).tickFormat((v) => v.toLocaleString("en-GB"));
  svg.append("g").attr("class", "axis along").attr("transform", `translate(0 ${height - bottom})`).call(along);
  svg.append("text").attr("class", "axis-name").attr("x", x(data.high)).attr("y", height - 4).attr("text-anchor", "end").text(data.label);
  if (data.nowIs) {
    svg.append("line").attr("class", "now-line").attr("x1", x(data.now)).attr("x2", x(data.now)).attr("y1", top).attr("y2", height - bottom);
    svg.append("text").attr("class", "now-label").attr("x", x(data.now) + 4).attr("y", top + 8).text(data.nowIs);
  }
  data.series.forEach((one, i) => drawSeries(svg, one, i, x, y));
  if (room > 40) names(svg, data, x, y);
  else for (const [i, one] of data.series.entries()) nameInside(svg, one, i, x, y);
  const figure = box.closest("[data-curve-figure]");
  if (figure) startSheetSaving(figure, svg.node());
}

export const shadeOf = (one, i) => (one.face ? colours[(one.face - 1) % colours.length] : shades[i % shades.length]);

function drawSeries(svg, one, i, x, y) {
  let path = "", before = null;
  for (const [x1, y1, x2, y2] of one.parts) {
    const joined = before && x1 - before[0] <= 1;
    path += joined ? `L${x(x1)} ${y(before[1])}L${x(x1)} ${y(y1)}` : `M${x(x1)} ${y(y1)}`;
    path += `L${x(x2)} ${y(y2)}`;
    before = [x2, y2];
  }
  const g = svg.append("g").attr("class", "curve-line");
  g.append("path").attr("d", path).attr("fill", "none").attr("stroke", shadeOf(one, i)).attr("stroke-width", 2).attr("stroke-dasharray", dashes[Math.floor(i / (one.face ? colours.length : shades.length)) % dashes.length] || (one.face ? null : dashes[i % 4] || null));
  g.append("title").text(one.name);
}

// nameInside sets a name over the end of its line, where there is no room beside the chart.
function nameInside(svg, one, i, x, y) {
  const part = one.parts.at(-1);
  if (part) svg.append("text").attr("class", "curve-name").attr("text-anchor", "end").attr("x", x(part[2])).attr("y", y(part[3]) - 5).attr("fill", shadeOf(one, i)).text(one.name.slice(0, 16));
}

// names sets the names of the lines at their ends, apart from each other.
function names(svg, data, x, y) {
  const places = data.series.map((one, i) => ({ one, i, part: one.parts.at(-1) })).filter((p) => p.part).map((p) => ({ ...p, at: y(p.part[3]) })).sort((a, b) => a.at - b.at);
  let last = -Infinity;
  for (const place of places) {
    place.at = Math.max(place.at, last + 13);
    last = place.at;
  }
  const over = last - (height - bottom + 4);
  for (const place of places) {
    const text = place.one.name.length > 13 ? `${place.one.name.slice(0, 12)}…` : place.one.name;
    svg.append("text").attr("class", "curve-name").attr("x", x(data.high) + 6).attr("y", place.at + 4 - Math.max(0, over)).attr("fill", shadeOf(place.one, place.i)).text(text).append("title").text(place.one.name);
  }
}
