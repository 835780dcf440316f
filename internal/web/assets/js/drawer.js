// On a narrow screen the counter is a drawer and the rail a strip, scrolled to the coin one is on.

export function startDrawer() {
  const handle = document.querySelector("[data-drawer]");
  handle?.addEventListener("click", () => {
    const open = handle.closest("[data-counter]").classList.toggle("open");
    handle.setAttribute("aria-expanded", String(open));
  });
  document.querySelector(".rail [aria-current]")?.scrollIntoView({ block: "nearest", inline: "center" });
}
