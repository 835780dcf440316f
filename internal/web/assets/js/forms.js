// Small comforts of forms: addresses that are shown once are ready to be copied; what a page is asked for by a choice
// is asked as soon as it is made; what is sent and not answered yet says so, and is not sent twice.
import { say } from "./voice.js";

// How long a form that is on its way keeps from being sent again, in milliseconds.
const underway = 15_000;

function startSending() {
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (event.defaultPrevented || form.method !== "post") return;
    if (form.matches("[data-underway]")) {
      event.preventDefault();
      return;
    }
    const button = event.submitter ?? form.querySelector("button");
    form.dataset.underway = "";
    const told = setTimeout(() => {
      button?.setAttribute("aria-busy", "true");
      say("It is on its way.");
    }, 400);
    const over = () => {
      clearTimeout(told);
      delete form.dataset.underway;
      button?.removeAttribute("aria-busy");
    };
    setTimeout(over, underway);
    addEventListener("pagehide", over, { once: true }); // the page may be shown again as it was
  });
}

export function startForms() {
  startSending();
  document.addEventListener("focusin", (event) => { if (event.target.matches("[data-copy]")) event.target.select(); });
  document.addEventListener("change", (event) => {
    const form = event.target.matches("select") && event.target.closest("[data-ask]");
    if (!form) return;
    const end = { driver: "to", by: "up" }[event.target.name]; // another driver ends elsewhere
    if (end && form.elements[end]) form.elements[end].value = "";
    form.requestSubmit();
  });
}
