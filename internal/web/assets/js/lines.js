// What options cost along a driver, with a strip of who costs least and a line that stops at every value at which
// something changes. Prices come worked out; only positions are found here.
import { axisLeft, scaleLinear, select } from "../vendor/d3.min.js";
import { colours } from "./costs.js";
import { labelPlaces } from "./layout.js";
import { startSheetSaving } from "./picture.js";
import { showOnCounter, showUsual } from "./scrubber.js";

const left = 58, top = 26, strip = 26, bottom = 40;
let plot = 300;
const colourOf = (face) => colours[(face - 1) % colours.length];
let at = null; // the index of the stop that is looked at

export function drawLines(box, data) {
  box.replaceChildren();
  const width = box.clientWidth;
  if (!data?.options?.length || !width) return;
  plot = Math.max(220, Math.min(360, innerHeight - 560), 16 * data.options.length); // a place for each name
  const narrow = width < 560, room = narrow ? 26 : 128;
  const scaled = (v) => (data.log ? Math.log10(Math.max(1, v)) : v);
  const linear = scaleLinear([scaled(data.low), scaled(data.high)], [left, width - room]);
  const x = (v) => linear(scaled(v));
  const values = data.options.flatMap((o) => o.points.map((p) => p[1])).filter((v) => v >= 0);
  const most = data.view === "a month" ? Math.max(1, ...values) : clipped(values);
  const y = scaleLinear([0, most], [top + plot, top]).nice(6);
  const height = top + plot + bottom + strip;
  const svg = select(box).append("svg").attr("viewBox", `0 0 ${width} ${height}`).attr("width", width).attr("height", height);
  const axis = svg.append("g").attr("class", "axis").attr("transform", `translate(${left} 0)`)
    .call(axisLeft(y).ticks(6).tickSize(-(x(data.high) - left)).tickPadding(8).tickFormat((v) => data.sign + v.toLocaleString("en-GB", { maximumFractionDigits: 4 })));
  axis.select(".domain").remove();
  across(svg, data, x, width, room);
  const base = svg.append("clipPath").attr("id", "lines-room").append("rect").attr("x", left).attr("y", top - 2).attr("width", x(data.high) - left + 1).attr("height", plot + 4);
  base.attr("rx", 0);
  for (const option of [...data.options].sort((a, b) => Number(b.out) - Number(a.out))) {
    svg.append("path").attr("clip-path", "url(#lines-room)").attr("d", path(option.points, x, y)).attr("fill", "none")
      .attr("stroke", colourOf(option.face)).attr("stroke-width", option.out ? 1.6 : 2.2)
      .attr("stroke-dasharray", option.out ? "2 4" : option.face > colours.length ? "9 3" : null).append("title").text(option.name);
    const to = linear.invert(left + (x(data.high) - left) * ((((option.face * 7) % 24) + 0.5) / 24));
    const value = valueAt(option.points, data.log ? 10 ** to : to);
    if (value >= 0 && value <= y.domain()[1]) face(svg, option.face, linear(to), y(value), 15);
  }
  ends(svg, data, x, y, narrow);
  regions(svg, data, x, top + plot + bottom);
  mark(svg, x, data.now, data.nowIs, "now-line");
  if (data.then !== data.now && data.then <= data.high) mark(svg, x, data.then, data.thenIs, "then-line");
  scrub(box, svg, data, x, height, width);
  const figure = box.closest("[data-lines-figure]");
  if (figure) startSheetSaving(figure, svg.node());
}

// valueAt is where a line stands at a value of the driver: on the straight way between two of its points.
function valueAt(points, v) {
  const i = points.findIndex((p) => p[0] >= v);
  if (i < 1) return points[Math.max(0, i)][1];
  const [a, b] = [points[i - 1], points[i]];
  return a[1] < 0 || b[1] < 0 ? -1 : a[1] + ((b[1] - a[1]) * (v - a[0])) / (b[0] - a[0]);
}

// clipped leaves out the steep beginning of a price per unit.
function clipped(values) {
  const sorted = [...values].sort((a, b) => a - b);
  return Math.max(1e-6, sorted[Math.floor(sorted.length * 0.9)] * 1.2);
}

function path(points, x, y) {
  let d = "", on = false;
  for (const [px, py] of points) {
    if (py < 0) on = false;
    else { d += `${on ? "L" : "M"}${x(px).toFixed(1)} ${y(py).toFixed(1)}`; on = true; }
  }
  return d;
}

const face = (g, number, cx, cy, size) => g.append("use").attr("href", `#face-${number}`)
  .attr("x", cx - size / 2).attr("y", cy - size / 2).attr("width", size).attr("height", size);

function across(svg, data, x, width, room) {
  const ticks = [];
  if (data.log) for (let v = 1; v <= data.high; v *= 10) ticks.push(v);
  else ticks.push(...scaleLinear([0, data.high], [0, 1]).ticks(Math.max(2, Math.floor((width - left - room) / 100))));
  for (const v of ticks) {
    if (v > data.high) continue;
    svg.append("text").attr("class", "tick-name").attr("x", Math.max(left, x(Math.max(data.low, v)))).attr("y", top + plot + 18)
      .attr("text-anchor", v === 0 || v === 1 ? "start" : "middle").text((v / data.parts).toLocaleString("en-GB"));
  }
  svg.append("text").attr("class", "axis-name").attr("x", x(data.high)).attr("y", top + plot + 34).attr("text-anchor", "end").text(data.label);
}

function ends(svg, data, x, y, narrow) {
  const wanted = data.options.map((option) => ({ option, last: option.points.at(-1) }))
    .filter(({ last }) => last && last[1] >= 0)
    .map(({ option, last }) => ({ option, y: y(Math.min(last[1], y.domain()[1])) }));
  const g = svg.append("g").attr("class", "end-labels");
  for (const place of labelPlaces(wanted, 16, top, top + plot + 8)) {
    const from = x(data.high) + 6;
    if (Math.abs(place.at - place.y) > 3) {
      g.append("path").attr("d", `M${from - 5} ${place.y}L${from} ${place.at}`).attr("stroke", colourOf(place.option.face)).attr("stroke-width", 1);
    }
    face(g, place.option.face, from + 7, place.at, 13);
    if (narrow) continue;
    const name = place.option.name;
    g.append("text").attr("x", from + 17).attr("y", place.at + 4).text(name.length > 16 ? `${name.slice(0, 15)}…` : name).append("title").text(name);
  }
}

function regions(svg, data, x, from) {
  const g = svg.append("g").attr("class", "least-strip");
  for (const region of data.regions) {
    const a = x(region.from), b = Math.max(a + 1, x(Math.min(data.high, region.to + 1)));
    const rect = g.append("rect").attr("x", a).attr("y", from).attr("width", b - a).attr("height", strip - 6)
      .attr("fill", region.face ? colourOf(region.face) : "#fff").attr("fill-opacity", region.face ? 0.5 : 1)
      .attr("stroke", region.face ? "none" : "#A63D26").attr("stroke-dasharray", "2 2");
    rect.append("title").text(`${(region.from / data.parts).toLocaleString("en-GB")} to ${(region.to / data.parts).toLocaleString("en-GB")}`);
    if (region.face && b - a > 18) face(g, region.face, (a + b) / 2, from + (strip - 6) / 2, 14);
  }
}

function mark(svg, x, value, words, name) {
  const px = x(value), g = svg.append("g").attr("class", name);
  g.append("line").attr("x1", px).attr("x2", px).attr("y1", top - 6).attr("y2", top + plot);
  g.append("text").attr("x", px + 4).attr("y", top + (name === "now-line" ? 4 : 18)).text(words);
}

function scrub(box, svg, data, x, height, width) {
  const g = svg.append("g").attr("class", "scrubber").attr("visibility", "hidden");
  g.append("line").attr("y1", 20).attr("y2", height - 4);
  const flag = g.append("g");
  flag.append("rect").attr("height", 20).attr("rx", 10);
  flag.append("text").attr("y", 14).attr("text-anchor", "middle");
  const show = (i) => {
    at = i;
    const px = x(data.stops[i]);
    g.attr("visibility", "visible");
    g.select("line").attr("x1", px).attr("x2", px);
    flag.select("text").text(data.shown[i]);
    const half = flag.select("text").node().getComputedTextLength() / 2 + 10;
    flag.attr("transform", `translate(${Math.max(half, Math.min(width - half, px))} 0)`);
    flag.select("rect").attr("x", -half).attr("width", 2 * half);
    showOnCounter(data.options.map((o) => ({ key: o.key, cost: o.at[i], plan: o.plans[i] })), `${data.shown[i]}, ${data.view}`);
    slider.attr("aria-valuenow", i).attr("aria-valuetext", `${data.shown[i]}: ` + data.options.map((o) => `${o.name} ${o.at[i]} on ${o.plans[i]}`).join("; "));
  };
  const hide = () => { at = null; g.attr("visibility", "hidden"); showUsual(); };
  const slider = select(box).attr("role", "slider").attr("tabindex", 0).attr("aria-label", `Number of ${data.label}`)
    .attr("aria-valuemin", 0).attr("aria-valuemax", data.stops.length - 1).attr("aria-valuenow", 0).attr("aria-valuetext", data.shown[0]);
  const nearest = (px) => data.stops.reduce((best, v, i) => (Math.abs(x(v) - px) < Math.abs(x(data.stops[best]) - px) ? i : best), 0);
  svg.on("pointermove", (event) => show(nearest(event.offsetX))).on("pointerleave", hide);
  slider.on("keydown", (event) => {
    const move = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (move) show(Math.max(0, Math.min(data.stops.length - 1, (at ?? (move > 0 ? -1 : data.stops.length)) + move)));
    else if (event.key === "Home") show(0);
    else if (event.key === "End") show(data.stops.length - 1);
    else if (event.key === "Escape") hide();
    else return;
    event.preventDefault();
  }).on("blur", hide);
  for (const link of document.querySelectorAll("[data-stop]")) {
    const i = data.stops.indexOf(Number(link.dataset.stop));
    if (i < 0) continue;
    link.onpointerenter = link.onfocus = () => show(i);
    link.onpointerleave = link.onblur = hide;
    link.onclick = (event) => event.preventDefault();
  }
}
