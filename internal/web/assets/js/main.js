// Wires a page up. Each module finds its targets by data attributes and does nothing where there are none.
import { startSaving, swap } from "./saving.js";
import { startKeys } from "./keys.js";
import { startSlip } from "./slip.js";
import { startDrawer } from "./drawer.js";
import { startForms } from "./forms.js";
import { drawCharts } from "./charts.js";
import { listsSwapped, startLists } from "./lists.js";
import { settle, startColumns } from "./columns.js";
import { reachScrolls } from "./scrolls.js";

// The page as it is now, in the place of what is shown.
const anew = async () => {
  const answer = await fetch(location.href).catch(() => null);
  if (answer?.ok && swap(new DOMParser().parseFromString(await answer.text(), "text/html"))) swapped();
  else location.reload();
};

// What few pages have is loaded once it is there.
const rare = {
  "[data-find]": () => import("./finding.js").then(({ startFinding }) => startFinding()),
  "[data-grid]": () => import("./grid.js").then(({ startGrid }) => startGrid()),
  "[data-static-figure]": () => import("./picture.js").then(({ startSheetSaving }) => {
    for (const figure of document.querySelectorAll("[data-static-figure]")) startSheetSaving(figure, figure.querySelector("svg"));
  }),
  "[data-work]": () => import("./work.js").then(({ startWork }) => startWork(anew)),
  "[data-read-form]": () => import("./reading.js").then(({ startReading }) => startReading()),
};
const bring = () => {
  for (const [target, load] of Object.entries(rare)) {
    if (!document.querySelector(target)) continue;
    delete rare[target];
    load();
  }
};

const swapped = () => { drawCharts(); listsSwapped(); reachScrolls(); settle(); bring(); document.dispatchEvent(new Event("swapped")); };

startSaving(swapped);
startLists();
startKeys();
startSlip();
startDrawer();
startForms();
bring();
startColumns();
import("./following.js").then(({ startFollowing }) => startFollowing(swapped));
drawCharts().finally(() => { document.documentElement.dataset.drawn = ""; });
reachScrolls();
addEventListener("resize", reachScrolls);
// A chart is drawn for its width, and anew for another: a phone that is turned, a window that is pulled.
const widths = new WeakMap();
const wider = new ResizeObserver((boxes) => {
  const changed = boxes.filter(({ target, contentRect }) => widths.has(target) && widths.get(target) !== contentRect.width);
  for (const { target, contentRect } of boxes) widths.set(target, contentRect.width);
  if (changed.length > 0) drawCharts();
});
for (const box of document.querySelectorAll("[data-chart], [data-bars], [data-curve], [data-growth-chart], [data-lines], [data-plane]")) wider.observe(box);
