// Saves edits in place. A field is posted by itself once it is left, a form marked data-live as it is; the
// answer is the page itself, and the parts marked data-part become like its. Without this module the same
// forms post and redirect, each row's fields together.
import { morph, answers, isDirty, isField, pathOf, wasOf } from "./morphing.js";
import { keepFocus } from "./focus.js";
import { lookOf, sayRefused, saySaved } from "./voice.js";

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
  // A choice that is walked through by keys is made when its field is left, or by Enter.
  let walking = null;
  document.addEventListener("pointerdown", () => { walking = null; }, true);
  document.addEventListener("change", (event) => {
    if (!swapping && isField(event.target) && event.target !== walking) saveField(event.target, afterSwap);
  });
  // Text that was carried over a swap reports no change when its field is left.
  document.addEventListener("focusout", (event) => {
    walking = null;
    if (!swapping && isField(event.target) && isDirty(event.target)) saveField(event.target, afterSwap);
  });
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!form.matches("[data-live]")) return;
    event.preventDefault();
    if (form.matches(".row-form")) {
      for (const field of form.elements) if (isField(field) && isDirty(field)) saveField(field, afterSwap);
      return;
    }
    const data = new URLSearchParams(new FormData(form, event.submitter));
    if (form.matches("[data-add]") && form.contains(document.activeElement)) beginNext(form.id);
    for (const control of form.matches("[data-add]") ? form.querySelectorAll("[name^='item.']") : []) control.dataset.sent = control.value;
    begin({ url: form.getAttribute("action") ?? location.href, data, field: form.dataset.field, adds: form.matches("[data-add]") ? form.id : null }, afterSwap);
  });
  addEventListener("beforeunload", (event) => { if (waiting.size > 0) event.preventDefault(); });
  // Enter leaves focus where it is and Escape puts the saved value back.
  document.addEventListener("keydown", (event) => {
    const field = event.target;
    if (!isField(field)) return;
    if (field.matches("select")) walking = event.key === "Enter" ? null : field;
    if (event.key === "Enter") {
      if (!field.matches("select")) event.preventDefault();
      saveField(field, afterSwap);
    }
    if (event.key === "Escape") standAgain(field);
  });
  document.querySelector("[data-snag-again]")?.addEventListener("click", () => sendWaiting(afterSwap));
  document.querySelector("[data-snag-close]")?.addEventListener("click", () => { snag().hidden = true; });
}

function saveField(field, afterSwap) {
  const unchanged = !isDirty(field) && !field.matches("[aria-invalid]");
  if (unchanged || field.dataset.sent === field.value) return;
  field.dataset.sent = field.value;
  field.classList.add("saving");
  const data = new URLSearchParams({ op: "set", path: pathOf(field), was: wasOf(field).value, value: field.value });
  begin({ url: location.href, data, field: field.id }, afterSwap);
}

// standAgain puts back what stands in a field, also where what was typed was refused.
function standAgain(field) {
  if (field.matches("select")) {
    for (const option of field.options) option.selected = option.defaultSelected;
    return;
  }
  if (field.dataset.stands !== undefined) {
    field.defaultValue = field.dataset.stands;
    document.getElementById(`${field.id}-problem`)?.remove();
    field.closest(".wrong")?.classList.remove("wrong");
    for (const name of ["aria-invalid", "aria-describedby", "data-stands", "data-sent"]) field.removeAttribute(name);
  }
  field.value = field.defaultValue;
  field.select();
}

// begin sends a save; one that is made before the answer to the last stands on that.
function begin(save, afterSwap) {
  if (save.data.has("value")) {
    const key = answers(save.data);
    if (underway.has(key)) save.data.set("was", underway.get(key));
    underway.set(key, save.data.get("value"));
  }
  send(save, afterSwap);
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
      const before = lookOf(document);
      if (!swap(page, save.data)) {
        // Signed out, or the study is in the bin: what was typed can be saved once that is mended.
        if (save.data.has("value") && (answer.status === 401 || answer.status === 404)) waiting.set(key, save);
        complain(page.querySelector("[data-failure-text]")?.textContent ?? `Not saved: the server answered ${answer.status}.`, page.querySelector("[data-failure] .lead-in")?.textContent);
        return;
      }
      if (waiting.size === 0) snag().hidden = true;
      else sendWaiting(afterSwap);
      afterSwap();
      if (!answer.ok) sayRefused(save);
      else saySaved(save.data.get("op"), before, lookOf(document));
      if (save.adds && answer.ok && document.activeElement === document.body) beginNext(save.adds);
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
  const refocus = keepFocus();
  const scrolls = parts.map((part) => [part.dataset.part, part.scrollTop, part.scrollLeft]);
  const inner = [...document.querySelectorAll(".scroll")].map((box) => [box.scrollTop, box.scrollLeft]);
  swapping = true;
  for (const part of parts) {
    const fresh = page.querySelector(`[data-part="${part.dataset.part}"]`);
    if (fresh) morph(part, fresh, settled);
    if (fresh?.dataset.last !== undefined) Object.assign(part.dataset, fresh.dataset);
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
  refocus();
  return true;
}

function complain(what, then) {
  for (const field of document.querySelectorAll(".saving")) {
    field.classList.remove("saving");
    delete field.dataset.sent;
  }
  snag().querySelector("[data-snag-text]").textContent = [what, then].filter(Boolean).join(" ");
  snag().hidden = false;
}
