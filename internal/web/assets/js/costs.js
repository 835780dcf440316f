// The cost lines with their ribbons, and a scrubber through both. All amounts come formatted; only
// positions are worked out here.
import { axisLeft, curveStepAfter, line, scaleLinear, select } from "../vendor/d3.min.js";
import { labelPlaces, monthAt, ticksOf } from "./layout.js";
import { startScrubber, stopScrubber } from "./scrubber.js";
import { startSheetSaving } from "./picture.js";

export const colours = ["#1C6E5F", "#B0402A", "#2E5590", "#A5780F", "#6D3E78", "#0B7285", "#8A4B1F", "#4B5560", "#A8326E", "#56751A", "#3A3A8C", "#77644A"];
// Faces beyond the twelfth have the colours over again, on a light disc; their lines are broken.
const colourOf = (face) => colours[(face - 1) % colours.length];
// At the usual size of text; where the reader has larger text, all of it grows with it.
const usual = { top: 30, right: 8, bottom: 40, left: 58, lane: 24 };
let scale = 1;
let margin = usual;
let lane = usual.lane;

export function drawCosts(box, data) {
  box.replaceChildren();
  const width = box.clientWidth;
  if (!data || !width || !data.options?.length) {
    stopScrubber(box);
    return;
  }
  const svg = select(box).append("svg").attr("class", "cost-lines");
  scale = Math.max(1, measured(svg, "0").height / 15);
  margin = Object.fromEntries(Object.entries(usual).map(([name, size]) => [name, size * scale]));
  lane = margin.lane;
  const narrow = width < 560 * scale;
  const lanes = data.options.length * lane;
  const room = parseFloat(getComputedStyle(box.closest(".costs-main")).minHeight) - 68;
  const plot = Math.max(190 * scale, room - lanes - margin.top - margin.bottom);
  const height = margin.top + plot + margin.bottom + lanes;
  const n = data.months.length;
  const most = Math.max(1, ...data.options.flatMap((o) => o.values.filter((v) => v !== null)));
  const y = scaleLinear([0, most], [margin.top + plot, margin.top]).nice(6);
  const amount = (v) => data.sign + v.toLocaleString("en-GB");
  margin.left = Math.max(margin.left, 14 + Math.max(...y.ticks(6).map((v) => measured(svg, amount(v)).width)));
  const x = scaleLinear([0, n], [margin.left, width - margin.right - (narrow ? 24 : 130) * scale]);
  svg.attr("viewBox", `0 0 ${width} ${height}`).attr("width", width).attr("height", height);

  const axis = svg.append("g").attr("class", "axis").attr("transform", `translate(${margin.left} 0)`);
  axis.call(axisLeft(y).ticks(6).tickSize(-(x(n) - margin.left)).tickPadding(8).tickFormat(amount));
  axis.select(".domain").remove();
  monthAxis(svg, data, x, y(0));
  for (const option of inDrawingOrder(data.options)) drawLine(svg, option, x, y);
  endLabels(svg, data, x, y, narrow);
  drawRibbons(svg, data, x, margin.top + plot + margin.bottom);
  startScrubber(box, svg, data, { x, top: margin.top, bottom: height, width, scale, monthAt: (px) => monthAt(px, x, n) });
  startSheetSaving(box.closest("[data-cost-chart]"), svg.node());
}

// How large a text of the chart is drawn.
function measured(svg, words) {
  const text = svg.append("text").text(words);
  const box = text.node().getBBox();
  text.remove();
  return box;
}

// What is out lies beneath what is in.
const inDrawingOrder = (options) => [...options].sort((a, b) => Number(b.out) - Number(a.out));

function monthAxis(svg, data, x, base) {
  const g = svg.append("g").attr("class", "months");
  const room = measured(svg, "2027").width + 6;
  for (const t of ticksOf(data.months.length, Math.min(12, Math.floor((x(data.months.length) - x(0)) / room)))) {
    g.append("text").attr("x", x(t)).attr("y", base + 18 * scale).attr("text-anchor", "start").text(data.short[t]);
  }
  const second = data.years.findIndex((year, t) => year && t > 0);
  let free = -Infinity;
  data.years.forEach((year, t) => {
    if (t === 0 && second > 0 && x(second) - x(0) < room) return; // the first is too short for its number
    if (!year || x(t) < free) return;
    g.append("text").attr("class", "year").attr("x", x(t)).attr("y", base + 33 * scale).text(year);
    free = x(t) + room;
  });
}

function drawLine(svg, option, x, y) {
  const points = option.values.map((v, t) => [t, v]);
  if (points.length) points.push([points.length, points[points.length - 1][1]]);
  const path = line().defined((p) => p[1] !== null).x((p) => x(p[0])).y((p) => y(p[1])).curve(curveStepAfter);
  const g = svg.append("g").attr("data-line", option.key);
  g.append("path").attr("d", path(points)).attr("fill", "none").attr("stroke", colourOf(option.face)).attr("stroke-width", option.out ? 1.6 : 2.2)
    .attr("stroke-dasharray", option.out ? "2 4" : option.face > colours.length ? "9 3" : null).attr("stroke-linejoin", "round");
  // The mark says which line it is without its colour; marks of different options stand apart.
  const at = Math.min(option.values.length - 1, Math.round(((option.face * 2 - 1) / 48) * option.values.length));
  if (option.values[at] !== null && option.values[at] !== undefined) face(g, option.face, x(at + 0.5), y(option.values[at]), 15 * scale);
}

const face = (g, number, cx, cy, size) => g.append("use").attr("href", `#face-${number}`).attr("x", cx - size / 2).attr("y", cy - size / 2)
  .attr("width", size).attr("height", size);

function endLabels(svg, data, x, y, narrow) {
  const last = data.months.length - 1;
  const wanted = data.options.filter((o) => o.values[last] !== null).map((o) => ({ option: o, y: y(o.values[last]) }));
  const g = svg.append("g").attr("class", "end-labels");
  for (const place of labelPlaces(wanted, (narrow ? 17 : 16) * scale, 8 * scale, y(0) + margin.bottom - 8 * scale)) {
    const left = x(data.months.length) + 6 * scale;
    if (Math.abs(place.at - place.y) > 3) g.append("path").attr("d", `M${left - 5 * scale} ${place.y}L${left} ${place.at}`)
      .attr("stroke", colourOf(place.option.face)).attr("stroke-width", 1);
    face(g, place.option.face, left + 7 * scale, place.at, 13 * scale);
    if (!narrow) g.append("text").attr("x", left + 17 * scale).attr("y", place.at + 4 * scale)
      .text(clip(place.option.name + (place.option.now ? " (now)" : ""), 17)).append("title").text(place.option.name);
  }
}

const clip = (text, most) => (text.length > most ? text.slice(0, most - 1) + "…" : text);

// fitted is as much of a name as there is room for; a name that would be cut below four letters is left
// to the tooltip. It is measured beside the page, which would be laid out anew for each of thousands.
function fitted(name, room, pen) {
  for (let most = name.length; most > 4 || most === name.length; most--) {
    const words = clip(name, most);
    if (pen.measureText(words).width <= room) return words;
  }
  return "";
}

// penOf measures text as a part of the chart is written.
function penOf(svg, part) {
  const g = svg.append("g").attr("class", part);
  const pen = document.createElement("canvas").getContext("2d");
  const { fontStyle, fontWeight, fontSize, fontFamily } = getComputedStyle(g.append("text").node());
  pen.font = `${fontStyle} ${fontWeight} ${fontSize} ${fontFamily}`;
  g.remove();
  return pen;
}

function drawRibbons(svg, data, x, top) {
  const pen = penOf(svg, "ribbon");
  data.options.forEach((option, i) => {
    const lane0 = top + i * lane;
    const g = svg.append("g").attr("class", "ribbon");
    face(g, option.face, margin.left - 14 * scale, lane0 + 9 * scale, 16 * scale);
    if (option.values.includes(null)) import("./gaps.js").then((m) => m.drawGaps(svg, g, option, data, x, lane0, scale));
    for (const block of option.blocks) {
      const from = x(block.from), to = x(block.to + 1) - 2;
      const shade = 0.16 + (block.of > 1 ? (0.3 * block.rank) / (block.of - 1) : 0.1);
      const cell = g.append("g");
      cell.append("rect").attr("x", from).attr("y", lane0).attr("width", Math.max(1, to - from)).attr("height", 18 * scale).attr("rx", 2)
        .attr("fill", colourOf(option.face)).attr("fill-opacity", shade);
      cell.append("title").text(`${option.name}: ${block.name}, ${data.months[block.from]} to ${data.months[block.to]}`);
      const name = fitted(block.name, to - from - 10, pen);
      if (name) cell.append("text").attr("x", from + 6).attr("y", lane0 + 13 * scale).text(name);
    }
  });
}
