// Finds on the shelf while one types: the answer's list takes the place of the one shown. Arrow keys walk what was
// found and Enter in the field takes the first; what has the focus keeps it when a late answer comes. Without this module
// the same form loads the page.
let timer = 0;
let asked = 0;

export function startFinding() {
  document.addEventListener("input", (event) => {
    const form = event.target.closest("[data-find]");
    if (!form) return;
    clearTimeout(timer);
    timer = setTimeout(() => find(form), 120);
  });
  document.addEventListener("submit", async (event) => {
    const form = event.target;
    if (!form.matches("[data-find]")) return;
    event.preventDefault();
    clearTimeout(timer);
    await find(form);
    document.querySelector("[data-found] button")?.focus();
  });
  document.addEventListener("keydown", (event) => {
    const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
    const from = event.target.closest("[data-find], [data-found]");
    if (!step || !from || event.altKey || event.ctrlKey || event.metaKey) return;
    const stops = [document.querySelector("[data-find] [data-slash]"), ...document.querySelectorAll("[data-found] button")];
    const next = stops[stops.indexOf(event.target) + step];
    if (!next) return;
    event.preventDefault();
    next.focus();
  });
}

async function find(form) {
  const turn = ++asked;
  const query = new URLSearchParams(new FormData(form));
  const answer = await fetch(`${location.pathname}?${query}`, { headers: { Accept: "text/html" } }).catch(() => null);
  if (!answer?.ok || turn !== asked) return;
  const page = new DOMParser().parseFromString(await answer.text(), "text/html");
  const fresh = page.querySelector("[data-found]");
  const list = document.querySelector("[data-found]");
  if (!fresh || !list) return;
  const named = (button) => button.closest("li")?.querySelector("b")?.textContent + button.textContent;
  const held = list.contains(document.activeElement) && named(document.activeElement);
  list.replaceChildren(...fresh.childNodes);
  if (held) ([...list.querySelectorAll("button")].find((one) => named(one) === held) ?? document.querySelector("[data-find] [data-slash]")).focus();
}
