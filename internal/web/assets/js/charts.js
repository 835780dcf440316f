// Draws every chart of the page anew, from the numbers that the page carries. What draws them comes once
// there is something to draw.
const read = (selector) => {
  const block = document.querySelector(selector);
  return block ? JSON.parse(block.textContent) : null;
};

const further = [
  ["[data-growth-chart]", "[data-growth-data]", () => import("./growth.js").then((m) => m.drawGrowth)],
  ["[data-lines]", "[data-lines-data]", () => import("./lines.js").then((m) => m.drawLines)],
  ["[data-plane]", "[data-plane-data]", () => import("./field.js").then((m) => m.drawField)],
];

export async function drawCharts() {
  if (document.querySelector("[data-chart]")) {
    const { drawCosts } = await import("./costs.js");
    const box = document.querySelector("[data-chart]");
    if (box) drawCosts(box, read("[data-chart-data]"));
  }
  if (document.querySelector("[data-curve]")) {
    const { drawCurve } = await import("./curve.js");
    for (const box of document.querySelectorAll("[data-curve]")) {
      const block = box.parentElement.querySelector("[data-curve-data]");
      if (block) drawCurve(box, JSON.parse(block.textContent));
    }
  }
  for (const [target, data, load] of further) {
    if (!document.querySelector(target)) continue;
    const draw = await load();
    const box = document.querySelector(target);
    if (box) draw(box, read(data));
  }
  if (document.querySelector("[data-bars]")) {
    const { drawBars } = await import("./bars.js");
    const box = document.querySelector("[data-bars]");
    if (box) drawBars(box, read("[data-bars-data]"));
  }
}
