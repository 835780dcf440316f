// Keeps the focus where it was while the page is made like a fresh one under it.
import { isDirty } from "./morphing.js";

const reachable = "a[href], button:not(:disabled), input:not([type=hidden], :disabled), select:not(:disabled), textarea:not(:disabled), summary, [tabindex='0']";
const partOf = (node) => node.closest("[data-part]");
const seen = (node) => node.checkVisibility();
const nameOf = (node) => node.getAttribute("aria-label") ?? node.textContent.trim();

// Whether the focus went to what stands where it was, because that is gone.
export let fellBack = false;

// keepFocus remembers what has the focus, and returns what gives it back.
export function keepFocus() {
  const at = document.activeElement;
  fellBack = false;
  if (!at || at === document.body) return () => {};
  const part = partOf(at)?.dataset.part;
  const place = part ? [...partOf(at).querySelectorAll(reachable)].filter(seen).indexOf(at) : -1;
  const was = { id: at.id, tag: at.tagName, name: nameOf(at), start: at.selectionStart, end: at.selectionEnd };
  return () => {
    const now = document.activeElement;
    if (now && now !== document.body && now !== at) return; // somewhere else by now
    const field = now === at && (!was.id || at.id === was.id) ? at : alike(part, place, was);
    if (!field) return;
    if (now !== field) field.focus({ preventScroll: true });
    if (field.type === "text" && field.id === was.id && isDirty(field)) field.setSelectionRange(was.start, was.end);
    else if (field.matches("input")) field.select?.();
  };
}

// What the focus is given to: the same by its id, else by its name, else what stands there now.
function alike(part, place, was) {
  const same = was.id && document.getElementById(was.id);
  if (same) return same;
  const box = part && document.querySelector(`[data-part="${part}"]`);
  if (!box) return null;
  const all = [...box.querySelectorAll(reachable)].filter(seen);
  const named = all.filter((node) => node.tagName === was.tag && nameOf(node) === was.name);
  if (named.length === 1) return named[0];
  fellBack = true;
  return all[Math.min(place, all.length - 1)] ?? box;
}
