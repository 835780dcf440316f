// Where each score comes from: one stacked bar an option, a shade of brass a criterion. Neighbours stand apart by
// 3 to 1 and more; from the fifth criterion on the shades come again, with a stripe.
import { scaleLinear, select } from "../vendor/d3.min.js";

const shades = ["#5E450D", "#E8D19A", "#8F6A12", "#F1E3C1"];
const shadeOf = (k) => shades[k % shades.length];
const isLight = (k) => k % 2 === 1;

export function drawBars(box, data) {
  box.replaceChildren();
  if (!data?.bars?.length || !data.criteria?.length) {
    box.append(Object.assign(document.createElement("p"), { className: "soft pad", textContent: "Nothing to show yet: no option is in, or nothing is rated." }));
    return;
  }
  box.append(legend(data.criteria));
  const scale = Math.max(1, textHeight(box) / 16);
  const rowHeight = 44 * scale;
  const width = Math.max(280, box.clientWidth - 28);
  const x = scaleLinear([0, 9], [34 * scale, width - 66 * scale]);
  const svg = select(box).append("svg").attr("viewBox", `0 0 ${width} ${data.bars.length * rowHeight}`).attr("width", width).attr("height", data.bars.length * rowHeight).attr("role", "img")
    .attr("aria-label", data.bars.map((bar) => `${bar.name} ${bar.fit}`).join(", "));
  data.bars.forEach((bar, i) => {
    const row = svg.append("g").attr("transform", `translate(0 ${i * rowHeight + 8 * scale})`);
    row.append("use").attr("href", `#face-${bar.face}`).attr("x", 4).attr("y", 3 * scale).attr("width", 19 * scale).attr("height", 19 * scale);
    let at = 0;
    bar.points.forEach((points, k) => {
      const from = x(at), to = x(at + points);
      at += points;
      if (to - from < 0.5) return;
      const part = row.append("g");
      piece(part, k, from, Math.max(0.5, to - from - 1.5), 25 * scale);
      part.append("title").text(`${bar.name}, ${data.criteria[k]}: ${bar.shown[k]} points`);
      if (to - from > 25 * scale) part.append("text").attr("x", (from + to) / 2 - 1).attr("y", 17 * scale).attr("text-anchor", "middle").attr("class", isLight(k) ? "on-light" : "on-dark").text(bar.shown[k]);
    });
    row.append("text").attr("x", x(at) + 8).attr("y", 18 * scale).attr("class", "bar-fit").text(bar.fit);
  });
}

// How high the text of the bars is drawn, at its usual size 16.
function textHeight(box) {
  const svg = select(box).append("svg").attr("width", 20).attr("height", 20);
  const height = svg.append("text").text("0").node().getBBox().height;
  svg.remove();
  return height;
}

function piece(g, k, x, width, height, y = 0) {
  g.append("rect").attr("x", x).attr("y", y).attr("width", width).attr("height", height).attr("rx", 1.5).attr("fill", shadeOf(k));
  for (let n = 0; n < Math.floor(k / shades.length); n++) {
    g.append("rect").attr("class", "stripe").attr("x", x + 1).attr("y", y + height - 3 - 3 * n).attr("width", Math.max(0, width - 2)).attr("height", 1.5).attr("fill", shadeOf(k + 1));
  }
}

function legend(criteria) {
  const list = document.createElement("ul");
  list.className = "bar-legend";
  criteria.forEach((name, i) => {
    const item = document.createElement("li");
    const svg = select(item).append("svg").attr("width", 11).attr("height", 11).attr("aria-hidden", "true");
    piece(svg, i, 0.5, 10, 10, 0.5);
    item.append(name);
    list.append(item);
  });
  return list;
}
