// Small comforts of forms: addresses that are shown once are ready to be copied; what a page is asked for by a choice
// is asked as soon as it is made.

export function startForms() {
  document.addEventListener("focusin", (event) => { if (event.target.matches("[data-copy]")) event.target.select(); });
  document.addEventListener("change", (event) => {
    const form = event.target.matches("select") && event.target.closest("[data-ask]");
    if (!form) return;
    const end = { driver: "to", by: "up" }[event.target.name]; // another driver ends elsewhere
    if (end && form.elements[end]) form.elements[end].value = "";
    form.requestSubmit();
  });
}
