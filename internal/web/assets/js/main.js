// Wires a page up. Each module finds its targets by data attributes and does nothing where there are none.
import { startSaving } from "./saving.js";
import { startKeys } from "./keys.js";
import { startSlip } from "./slip.js";
import { startDrawer } from "./drawer.js";
import { startFollowing } from "./following.js";
import { startForms } from "./forms.js";
import { drawCharts } from "./charts.js";
import { listsSwapped, startLists } from "./lists.js";
import { reachScrolls } from "./scrolls.js";

const swapped = () => { drawCharts(); listsSwapped(); reachScrolls(); };

startSaving(swapped);
startLists();
startKeys();
startSlip();
startDrawer();
startForms();
startFollowing(swapped);
drawCharts().finally(() => { document.documentElement.dataset.drawn = ""; });
reachScrolls();
addEventListener("resize", reachScrolls);
