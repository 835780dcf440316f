// A table that scrolls, and has nothing in it that takes the focus, takes it itself: so it scrolls by keys.
export function reachScrolls() {
  for (const box of document.querySelectorAll(".scroll")) {
    if (box.getAttribute("role") === "region" && !box.dataset.reach) continue; // it says so of itself
    const reach = box.scrollWidth > box.clientWidth && !box.querySelector("a, button, input:not([type=hidden]), select, textarea, summary");
    if (reach) {
      box.dataset.reach = "1";
      box.tabIndex = 0;
      box.setAttribute("role", "region");
      box.setAttribute("aria-label", "Table, wider than the page");
    } else if (box.dataset.reach) {
      delete box.dataset.reach;
      for (const name of ["tabindex", "role", "aria-label"]) box.removeAttribute(name);
    }
  }
}
