// Small comforts of forms: a choice that is saved when it is made, and addresses that are shown once, ready to be copied.

export function startForms() {
  document.addEventListener("change", (event) => { if (event.target.matches("[data-submits]")) event.target.form.requestSubmit(); });
  document.addEventListener("focusin", (event) => { if (event.target.matches("[data-copy]")) event.target.select(); });
}
