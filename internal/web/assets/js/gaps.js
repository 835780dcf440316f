// Months that nothing serves, hatched in the ribbon of an option.
export function drawGaps(svg, g, option, data, x, top, scale) {
  if (svg.select("#unserved").empty()) {
    const hatch = svg.append("defs").append("pattern").attr("id", "unserved").attr("width", 6).attr("height", 6).attr("patternUnits", "userSpaceOnUse").attr("patternTransform", "rotate(45)");
    hatch.append("path").attr("d", "M0 0V6").attr("stroke", "#A63D26").attr("stroke-width", 2.4);
  }
  const runs = [];
  option.values.forEach((v, t) => {
    if (v !== null) return;
    if (runs.at(-1)?.[1] === t - 1) runs.at(-1)[1] = t;
    else runs.push([t, t]);
  });
  for (const [from, to] of runs) {
    const gap = g.append("rect").attr("class", "gap").attr("x", x(from)).attr("y", top).attr("width", Math.max(1, x(to + 1) - x(from) - 2)).attr("height", 18 * scale).attr("fill", "url(#unserved)");
    gap.append("title").text(`${option.name}: ${option.none || "nothing serves"}, ${data.months[from]} to ${data.months[to]}`);
  }
}
