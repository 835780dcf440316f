// A small comfort of forms: addresses that are shown once, ready to be copied.

export function startForms() {
  document.addEventListener("focusin", (event) => { if (event.target.matches("[data-copy]")) event.target.select(); });
}
