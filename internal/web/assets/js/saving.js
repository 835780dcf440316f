// Saves edits in place. A form marked data-live is posted in the background; the answer is the page
// itself, of which the parts marked data-part replace those shown. Without this module the same forms
// post and redirect.

// What this tab calls itself, so that it does not follow its own edits.
export const tab = crypto.randomUUID?.() ?? `tab-${Math.floor(Math.random() * 1e12)}`;

const snag = () => document.querySelector("[data-snag]");
let queue = Promise.resolve();
let again = null;
// A field that is taken away while it is typed in reports a change; that is not the typist's.
let swapping = false;
// What is on its way for each field: an edit made before the answer came stands on it.
const underway = new Map();
const fieldOf = (data) => ["edit", "of", "option", "rater"].map((name) => data.get(name) ?? "").join("|");

export function startSaving(afterSwap) {
  document.addEventListener("change", (event) => {
    const form = event.target.form;
    if (!swapping && form?.matches("[data-live]")) form.requestSubmit();
  });
  // Text that was carried over a swap reports no change when its field is left.
  document.addEventListener("focusout", (event) => {
    const field = event.target;
    if (!swapping && field.matches("input[form]") && field.value !== field.defaultValue) field.form?.requestSubmit();
  });
  document.addEventListener("submit", (event) => {
    const form = event.target;
    if (!form.matches("[data-live]")) return;
    event.preventDefault();
    const data = new URLSearchParams(new FormData(form, event.submitter));
    const field = form.id ? document.querySelector(`input[form="${form.id}"]`) : null;
    if (field) {
      const unchanged = field.value === field.defaultValue && !field.matches("[aria-invalid]");
      if (unchanged || field.dataset.sent === field.value) return;
      field.dataset.sent = field.value;
      field.classList.add("saving");
    }
    if (data.has("value")) {
      const key = fieldOf(data);
      if (underway.has(key)) data.set("was", underway.get(key));
      underway.set(key, data.get("value"));
    }
    send(form.getAttribute("action") ?? location.href, data, afterSwap);
  });
  // Enter leaves focus where it is and Escape puts the saved value back.
  document.addEventListener("keydown", (event) => {
    const field = event.target;
    if (event.key === "Escape" && field.matches?.("input[form]")) {
      field.value = field.defaultValue;
      field.select();
    }
  });
  document.querySelector("[data-snag-again]")?.addEventListener("click", () => again?.());
  document.querySelector("[data-snag-close]")?.addEventListener("click", () => { snag().hidden = true; });
}

// inTurn runs work after all that was asked for before it: saves and looks go out one after the other,
// so that no answer shows less than the one before it.
export function inTurn(work) {
  queue = queue.then(work, work);
  return queue;
}

function send(url, data, afterSwap) {
  inTurn(async () => {
    again = () => send(url, data, afterSwap);
    try {
      const slow = setTimeout(() => document.documentElement.classList.add("waiting"), 500);
      const answer = await fetch(url, { method: "POST", body: data, headers: { Accept: "text/html", "X-Tab": tab } }).finally(() => {
        clearTimeout(slow);
        document.documentElement.classList.remove("waiting");
      });
      const page = new DOMParser().parseFromString(await answer.text(), "text/html");
      if (!swap(page, fieldOf(data))) {
        complain(page.querySelector("[data-failure-text]")?.textContent ?? `Not saved: the server answered ${answer.status}.`, page.querySelector("[data-failure] .lead-in")?.textContent);
        return;
      }
      snag().hidden = true;
      afterSwap();
      tell(answer.ok);
    } catch (error) {
      if (!(error instanceof TypeError)) throw error;
      complain("Not saved: Nine Coins does not answer.", "What you typed is still in its field.");
    } finally {
      if (underway.get(fieldOf(data)) === data.get("value")) underway.delete(fieldOf(data));
    }
  });
}

// Replaces the parts that both pages have; false where the answer is no such page. A field that is being
// typed in keeps its text, and what it was begun from, so that a save over somebody else's value is told;
// unless the answer is to that very field.
export function swap(page, answered = null) {
  const parts = [...document.querySelectorAll("[data-part]")];
  if (!page.querySelector('[data-part="piles"]')) return false;
  const at = document.activeElement;
  const focus = { id: at?.id, start: at?.selectionStart, end: at?.selectionEnd, value: at?.value };
  // What was sent already is not being typed any more: its answer is what counts.
  focus.typed = at?.matches?.("input[form]") && at.value !== at.defaultValue && at.value !== at.dataset.sent;
  if (focus.typed && fieldOf(new FormData(at.form)) !== answered) focus.was = at.form.elements.was.value;
  const scrolls = parts.map((part) => [part.dataset.part, part.scrollTop, part.scrollLeft]);
  const inner = [...document.querySelectorAll(".scroll")].map((box) => [box.scrollTop, box.scrollLeft]);
  swapping = true;
  for (const part of parts) {
    const fresh = page.querySelector(`[data-part="${part.dataset.part}"]`);
    if (fresh && fresh.innerHTML !== part.innerHTML) part.innerHTML = fresh.innerHTML;
  }
  swapping = false;
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
  if (focus.typed && !field.matches("[aria-invalid]")) field.value = focus.value;
  if (focus.was !== undefined) field.form.elements.was.value = focus.was;
  field.focus({ preventScroll: true });
  if (focus.typed) field.setSelectionRange?.(focus.start, focus.end);
  else field.select?.();
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
