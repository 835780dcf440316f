// Opens receipts in a slip at the side. Without this module they open as pages.
import { Offcanvas } from "../vendor/bootstrap.min.js";

export function startSlip() {
  const slip = document.querySelector("[data-slip]");
  document.addEventListener("click", async (event) => {
    const link = event.target.closest("a[data-receipt]");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.button !== 0) return;
    event.preventDefault();
    try {
      const answer = await fetch(link.href);
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      const paper = page.querySelector("[data-receipt-paper]");
      if (!paper) throw new Error("no receipt");
      const body = slip.querySelector("[data-slip-body]");
      body.replaceChildren(paper);
      Offcanvas.getOrCreateInstance(slip).show();
    } catch {
      location.href = link.href;
    }
  });
}
