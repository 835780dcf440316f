// On a narrow screen a table shows one option at a time: another is picked above it, or by a swipe.
const picks = () => [...document.querySelectorAll("[data-picker] a")];

export function startColumns() {
  document.addEventListener("click", (event) => {
    const link = event.target.closest("[data-picker] a");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.button !== 0) return;
    event.preventDefault();
    pick(link);
  });
  let from = null;
  document.addEventListener("touchstart", (event) => {
    from = event.touches.length === 1 && event.target.closest("[data-picked]") && !event.target.closest("input, textarea, select, .grip") ? event.touches[0] : null;
  }, { passive: true });
  document.addEventListener("touchend", (event) => {
    const to = event.changedTouches[0];
    const across = from ? to.clientX - from.clientX : 0;
    if (Math.abs(across) < 50 || Math.abs(across) < 2 * Math.abs(to.clientY - from.clientY)) return;
    const at = picks().findIndex((link) => link.matches("[aria-current]"));
    if (!picks()[at]?.matches("[data-all]")) pick(picks().filter((link) => !link.matches("[data-all]"))[at + (across < 0 ? 1 : -1)]);
  }, { passive: true });
  settle();
}

// settle shows the picked option's name also where there are many.
export function settle() {
  const strip = document.querySelector("[data-picker]");
  const link = strip?.querySelector("[aria-current]");
  if (link && strip.scrollWidth > strip.clientWidth) strip.scrollLeft = link.offsetLeft - strip.offsetLeft - (strip.clientWidth - link.offsetWidth) / 2;
}

// pick shows an option's column as the server would, without asking it.
export function pick(link) {
  if (!link) return;
  const chosen = link.matches("[data-all]") ? -1 : picks().indexOf(link);
  for (const one of picks()) one.toggleAttribute("aria-current", one === link);
  link.setAttribute("aria-current", "true");
  for (const cell of document.querySelectorAll("[data-picked] [data-column]")) cell.classList.toggle("other", chosen >= 0 && Number(cell.dataset.column) !== chosen);
  history.replaceState(null, "", link.href);
  settle();
}
