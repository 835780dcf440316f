// On a narrow screen the counter is a drawer.

export function startDrawer() {
  const handle = document.querySelector("[data-drawer]");
  handle?.addEventListener("click", () => {
    const open = handle.closest("[data-counter]").classList.toggle("open");
    handle.setAttribute("aria-expanded", String(open));
  });
}
