// Where each score comes from: one stacked bar an option, a shade of brass a criterion.
import { scaleLinear, select } from "../vendor/d3.min.js";

const shades = ["#7A5A12", "#A5780F", "#C4962F", "#DDBB66", "#E8D19A", "#F1E3C1"];
const darkOn = (i) => i % shades.length > 1;
const rowHeight = 44;

export function drawBars(box, data) {
  box.replaceChildren();
  if (!data?.bars?.length || !data.criteria?.length) {
    box.append(Object.assign(document.createElement("p"), { className: "soft pad", textContent: "Nothing to show yet: no option is in, or nothing is rated." }));
    return;
  }
  box.append(legend(data.criteria));
  const width = Math.max(280, box.clientWidth - 28);
  const x = scaleLinear([0, 9], [34, width - 40]);
  const svg = select(box).append("svg").attr("viewBox", `0 0 ${width} ${data.bars.length * rowHeight}`).attr("width", width).attr("height", data.bars.length * rowHeight).attr("role", "img")
    .attr("aria-label", data.bars.map((bar) => `${bar.name} ${bar.fit}`).join(", "));
  data.bars.forEach((bar, i) => {
    const row = svg.append("g").attr("transform", `translate(0 ${i * rowHeight + 8})`);
    row.append("use").attr("href", `#face-${bar.face}`).attr("x", 4).attr("y", 3).attr("width", 19).attr("height", 19);
    let at = 0;
    bar.points.forEach((points, k) => {
      const from = x(at), to = x(at + points);
      at += points;
      if (to - from < 0.5) return;
      const part = row.append("g");
      part.append("rect").attr("x", from).attr("width", Math.max(0.5, to - from - 1.5)).attr("height", 25).attr("rx", 1.5).attr("fill", shades[k % shades.length]);
      part.append("title").text(`${bar.name}, ${data.criteria[k]}: ${bar.shown[k]} points`);
      if (to - from > 25) part.append("text").attr("x", (from + to) / 2 - 1).attr("y", 17).attr("text-anchor", "middle").attr("class", darkOn(k) ? "on-light" : "on-dark").text(bar.shown[k]);
    });
    row.append("text").attr("x", x(at) + 8).attr("y", 18).attr("class", "bar-fit").text(bar.fit);
  });
}

function legend(criteria) {
  const list = document.createElement("ul");
  list.className = "bar-legend";
  criteria.forEach((name, i) => {
    const item = document.createElement("li");
    const svg = select(item).append("svg").attr("width", 11).attr("height", 11).attr("aria-hidden", "true");
    svg.append("rect").attr("width", 11).attr("height", 11).attr("fill", shades[i % shades.length]);
    item.append(name);
    list.append(item);
  });
  return list;
}
