// Opens receipts in a slip at the side. Without this module they open as pages.

export function startSlip() {
  const slip = document.querySelector("[data-slip]");
  let opener = null; // what the focus goes back to
  slip.addEventListener("hidden.bs.offcanvas", () => {
    const again = opener?.isConnected ? opener : [...document.querySelectorAll("a[data-receipt]")].find((link) => link.href === opener?.href);
    (again ?? document.getElementById("main")).focus({ preventScroll: true });
  });
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
      const { Offcanvas } = await import("../vendor/bootstrap.min.js");
      opener = link;
      Offcanvas.getOrCreateInstance(slip).show();
    } catch {
      location.href = link.href;
    }
  });
}
