// Keys: 1 to 9 go to the coins, ? lists the keys, arrows walk a column of fields.
import { inTurn } from "./saving.js";

export function startKeys() {
  const dialog = document.querySelector("[data-keys-dialog]");
  document.querySelector("[data-keys]")?.addEventListener("click", () => dialog.showModal());
  document.addEventListener("keydown", (event) => {
    if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z") takeBack(event);
    if (event.ctrlKey || event.metaKey || event.altKey || document.querySelector("dialog[open], .offcanvas.show")) return;
    if (scrolls(event)) return;
    const field = event.target.closest("input, textarea, select");
    if (field) {
      if (event.key === "ArrowDown" || event.key === "ArrowUp") walk(field, event);
      return;
    }
    if (document.body.dataset.keys === "off") return; // on the account's page
    const finds = event.key === "/" ? document.querySelector("[data-slash]") : null;
    if (finds) {
      event.preventDefault();
      finds.focus();
      finds.select();
    } else if (event.key === "?") dialog.showModal();
    else if (/^[1-9]$/.test(event.key)) document.querySelector(`[data-coin="${event.key}"]`)?.click();
  });
}

// The main part scrolls by keys also while nothing in it has the focus.
function scrolls(event) {
  const main = document.getElementById("main");
  const outside = event.target === document.body || event.target.matches("a, summary") && !main.contains(event.target);
  const page = main.clientHeight - 40;
  const by = { PageDown: page, PageUp: -page, " ": event.shiftKey ? -page : page, Home: -main.scrollHeight, End: main.scrollHeight, ArrowDown: 40, ArrowUp: -40 }[event.key];
  if (!outside || by === undefined || main.scrollHeight <= main.clientHeight) return false;
  event.preventDefault();
  main.scrollBy({ top: by });
  return true;
}

// Each key waits until what was asked for before it is answered: what can be undone is known only then.
let turn = Promise.resolve();

// takeBack undoes or, with Shift, redoes; in a field that is being typed in the browser's own undo stays.
function takeBack(event) {
  const field = event.target.closest("input, textarea");
  if (field && field.value !== field.defaultValue) return;
  event.preventDefault();
  const form = event.shiftKey ? "[data-redo]" : "[data-undo]";
  turn = turn.then(() => inTurn(() => {})).then(() => document.querySelector(form)?.requestSubmit());
}

// walk moves to the field in the same column of the row above or below.
function walk(field, event) {
  const cell = field.closest("td");
  const row = cell?.parentElement;
  const rows = [...(row?.closest("table")?.querySelectorAll("tbody tr") ?? [])];
  const step = event.key === "ArrowDown" ? 1 : -1;
  for (let i = rows.indexOf(row) + step; rows[i]; i += step) {
    const next = rows[i].cells[cell.cellIndex]?.querySelector("input[form]");
    if (next) {
      event.preventDefault();
      next.focus();
      next.select();
      return;
    }
  }
}
