// Saves edits in place. A form marked data-live is posted in the background; the answer is the page
// itself, and the parts marked data-part become like its. Without this module the same forms post and
// redirect.
import { morph, answers, isDirty } from "./morphing.js";

// What this tab calls itself, so that it does not follow its own edits.
export const tab = crypto.randomUUID?.() ?? `tab-${Math.floor(Math.random() * 1e12)}`;

const snag = () => document.querySelector("[data-snag]");
let queue = Promise.resolve();
// A field that is taken away while it is typed in reports a change; that is not the typist's.
let swapping = false;
// Saves that could not be made yet, the oldest first. Where nothing answered they are tried again by themselves.
const waiting = new Map();
let pause = 0;
let timer = 0;
// What is on its way for each field: an edit made before the answer came stands on it.
const underway = new Map();

export function startSaving(afterSwap) {
  document.addEventListener("change", (event) => {
    const form = event.target.form;
    if (!swapping && form?.matches("[data-live]") && event.target.hasAttribute("form")) form.requestSubmit();
  });
  // Text that was carried over a swap reports no change when its field is left.
  document.addEventListener("focusout", (event) => {
    const field = event.target;
    if (!swapping && field.matches("input[form], textarea[form]") && field.value !== field.defaultValue) field.form?.requestSubmit();
  });
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!form.matches("[data-live]")) return;
    event.preventDefault();
    const data = new URLSearchParams(new FormData(form, event.submitter));
    const field = form.id ? document.querySelector(`[form="${CSS.escape(form.id)}"]`) : null;
    if (field) {
      const unchanged = !isDirty(field) && !field.matches("[aria-invalid]");
      if (unchanged || field.dataset.sent === field.value) return;
      field.dataset.sent = field.value;
      field.classList.add("saving");
    }
    if (form.matches("[data-add]") && form.contains(document.activeElement)) beginNext(form.id);
    for (const control of form.matches("[data-add]") ? form.querySelectorAll("[name^='item.']") : []) control.dataset.sent = control.value;
    if (data.has("value")) {
      const key = answers(data);
      if (underway.has(key)) data.set("was", underway.get(key));
      underway.set(key, data.get("value"));
    }
    send({ url: form.getAttribute("action") ?? location.href, data, field: field?.id ?? form.dataset.field, adds: form.matches("[data-add]") ? form.id : null }, afterSwap);
  });
  addEventListener("beforeunload", (event) => { if (waiting.size > 0) event.preventDefault(); });
  // Enter leaves focus where it is and Escape puts the saved value back.
  document.addEventListener("keydown", (event) => {
    const field = event.target;
    if (event.key === "Enter" && field.matches?.("textarea[form]")) {
      event.preventDefault();
      field.form.requestSubmit();
    }
    if (event.key === "Escape" && field.matches?.("input[form], textarea[form]")) {
      field.value = field.defaultValue;
      field.select();
    }
  });
  document.querySelector("[data-snag-again]")?.addEventListener("click", () => sendWaiting(afterSwap));
  document.querySelector("[data-snag-close]")?.addEventListener("click", () => { snag().hidden = true; });
}

// beginNext goes to the first field of a form that adds: what is typed there next takes the place of what was.
function beginNext(id) {
  const first = document.querySelector(`#${CSS.escape(id)} :is(input:not([type=hidden]), select)`);
  first?.focus();
  first?.select?.();
}

// inTurn runs work after all that was asked for before it: saves and looks go out one after the other,
// so that no answer shows less than the one before it.
export function inTurn(work) {
  queue = queue.then(work, work);
  return queue;
}

function send(save, afterSwap, again = false) {
  const key = save.data.has("value") ? answers(save.data) : save;
  inTurn(async () => {
    if (again && waiting.get(key) !== save) return; // a later edit of the field took its place
    try {
      const slow = setTimeout(() => document.documentElement.classList.add("waiting"), 500);
      const answer = await fetch(save.url, { method: "POST", body: save.data, headers: { Accept: "text/html", "X-Tab": tab } }).finally(() => {
        clearTimeout(slow);
        document.documentElement.classList.remove("waiting");
      });
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      if (answer.status >= 502) {
        wait(key, save, page.querySelector("[data-failure-text]")?.textContent ?? "Nine Coins does not answer.", afterSwap);
        return;
      }
      waiting.delete(key);
      pause = 0;
      if (!swap(page, save.data)) {
        // Signed out, or the study is in the bin: what was typed can be saved once that is mended.
        if (save.data.has("value") && (answer.status === 401 || answer.status === 404)) waiting.set(key, save);
        complain(page.querySelector("[data-failure-text]")?.textContent ?? `Not saved: the server answered ${answer.status}.`, page.querySelector("[data-failure] .lead-in")?.textContent);
        return;
      }
      if (waiting.size === 0) snag().hidden = true;
      else sendWaiting(afterSwap);
      afterSwap();
      if (save.adds && document.activeElement === document.body) beginNext(save.adds);
      tell(answer.ok);
    } catch (error) {
      if (!(error instanceof TypeError)) throw error;
      wait(key, save, "Nine Coins does not answer.", afterSwap);
    } finally {
      if (underway.get(answers(save.data)) === save.data.get("value")) underway.delete(answers(save.data));
    }
  });
}

// Keeps a save that nothing answered, says so, and tries it again: soon, then less often.
function wait(key, save, why, afterSwap) {
  waiting.set(key, save);
  pause = Math.min(pause === 0 ? 1 : pause * 2, 15);
  complain(`Not saved yet: ${why}`, "What you typed is still in its field, and is saved by itself as soon as that is possible.");
  clearTimeout(timer);
  timer = setTimeout(() => sendWaiting(afterSwap), pause * 1000);
}

function sendWaiting(afterSwap) {
  clearTimeout(timer);
  for (const save of [...waiting.values()]) {
    if (save.data.has("value")) underway.set(answers(save.data), save.data.get("value"));
    send(save, afterSwap, true);
  }
}

// Whether an answer is the same place as the page shown, not a failure and not the sign-in door.
function samePlace(page) {
  return page.querySelector('[data-part="main"]') !== null && page.querySelector("[data-failure], .door") === null && page.body.dataset.study === document.body.dataset.study;
}

// Makes the parts that both pages have alike; false where the answer is no such page. A field that is being
// typed in keeps its text, and what it was begun from, so that a save over somebody else's value is told;
// unless the answer is to that very field.
export function swap(page, settled = null) {
  const parts = [...document.querySelectorAll("[data-part]")];
  if (!samePlace(page)) return false;
  const at = document.activeElement;
  const focus = { id: at?.id, start: at?.selectionStart, end: at?.selectionEnd };
  const scrolls = parts.map((part) => [part.dataset.part, part.scrollTop, part.scrollLeft]);
  const inner = [...document.querySelectorAll(".scroll")].map((box) => [box.scrollTop, box.scrollLeft]);
  swapping = true;
  for (const part of parts) {
    const fresh = page.querySelector(`[data-part="${part.dataset.part}"]`);
    if (fresh) morph(part, fresh, settled);
    if (fresh?.dataset.last !== undefined) Object.assign(part.dataset, { last: fresh.dataset.last, lastSays: fresh.dataset.lastSays });
  }
  swapping = false;
  for (const { field, data } of waiting.values()) {
    const unsaved = field ? document.getElementById(field) : null;
    if (unsaved) unsaved.value = unsaved.dataset.sent = data.get("value");
  }
  const usual = page.querySelector("[data-counter-says]")?.dataset.usual;
  const says = document.querySelector("[data-counter-says]");
  if (usual && says) { says.dataset.usual = usual; says.textContent = usual; }
  for (const [name, top, left] of scrolls) {
    const part = document.querySelector(`[data-part="${name}"]`);
    part.scrollTop = top;
    part.scrollLeft = left;
  }
  document.querySelectorAll(".scroll").forEach((box, i) => { if (inner[i]) [box.scrollTop, box.scrollLeft] = inner[i]; });
  restore(focus);
  return true;
}

function restore(focus) {
  const field = focus.id ? document.getElementById(focus.id) : null;
  if (!field) return;
  field.focus({ preventScroll: true });
  if (field.type === "text" && isDirty(field)) field.setSelectionRange(focus.start, focus.end);
  else if (field.matches("input")) field.select?.();
}

function tell(saved) {
  const first = document.querySelector(".pile.first");
  const says = document.querySelector("[data-live-says]");
  if (!saved || !first) return;
  says.textContent = `Saved. First on the counter: ${first.querySelector(".pile-name").textContent.trim()}, ${first.querySelector("[data-cost]").textContent}.`;
}

function complain(what, then) {
  for (const field of document.querySelectorAll(".saving")) {
    field.classList.remove("saving");
    delete field.dataset.sent;
  }
  snag().querySelector("[data-snag-text]").textContent = [what, then].filter(Boolean).join(" ");
  snag().hidden = false;
}
