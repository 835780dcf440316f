// Draws every chart of the page anew, from the numbers that the page carries.
import { drawCosts } from "./costs.js";
import { drawBars } from "./bars.js";

const read = (selector) => {
  const block = document.querySelector(selector);
  return block ? JSON.parse(block.textContent) : null;
};

export function drawCharts() {
  const costs = document.querySelector("[data-chart]");
  if (costs) drawCosts(costs, read("[data-chart-data]"));
  const bars = document.querySelector("[data-bars]");
  if (bars) drawBars(bars, read("[data-bars-data]"));
}
