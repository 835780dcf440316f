// The grid of features by keys: arrows walk the cells, a key sets a state, digits a depth or a number, > takes
// what the plan before has, Enter writes freely, Escape leaves. A pasted block fills from the cell on. Each cell
// is a field that saves itself; without this module it is typed into and saved with its row.
const states = { y: "yes", p: "partly", n: "no", a: "add-on ", b: "bridge", s: "announced", u: "unknown" };
let free = null; // the cell that is written in freely
let steered = false; // a key was taken, and writes nothing

const cellOf = (target) => target.closest?.("[data-grid] [data-cell] input");

export function startGrid() {
  document.addEventListener("keydown", (event) => {
    const field = cellOf(event.target);
    if (!field || event.ctrlKey || event.metaKey || event.altKey) return;
    if (free === field) {
      if (event.key === "Enter" || event.key === "Escape") free = null;
      return;
    }
    steered = steer(field, event);
    if (steered) {
      event.preventDefault();
      event.stopImmediatePropagation();
    }
  }, true);
  document.addEventListener("keyup", () => { steered = false; }, true);
  document.addEventListener("beforeinput", (event) => { if (steered && cellOf(event.target) && event.inputType === "insertText") event.preventDefault(); });
  document.addEventListener("focusout", (event) => { if (event.target === free) free = null; });
  document.addEventListener("pointerdown", (event) => {
    const field = cellOf(event.target);
    if (field && field === document.activeElement) free = field; // a second press goes into the text
  });
  document.addEventListener("paste", (event) => {
    const field = cellOf(event.target);
    const text = event.clipboardData?.getData("text/plain") ?? "";
    const form = document.querySelector("[data-block]");
    if (!field || !form || !/[\t\n]/.test(text.trim())) return;
    event.preventDefault();
    form.elements.path.value = field.name.replace(/^value\./, "");
    form.elements.rows.value = text.replace(/\r?\n$/, "");
    form.requestSubmit();
  });
  let timer = 0;
  document.addEventListener("focusin", (event) => {
    const row = cellOf(event.target)?.closest("tr");
    if (!row) return;
    if (free !== event.target) event.target.select();
    clearTimeout(timer);
    timer = setTimeout(() => tell(row), 250);
  });
  document.addEventListener("click", (event) => {
    const link = event.target.closest("[data-panel-link]");
    if (!link || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    tell(link.closest("tr"), true);
  });
}

function steer(field, event) {
  const cell = field.closest("td");
  const way = { ArrowUp: [-1, 0], ArrowDown: [1, 0], ArrowLeft: [0, -1], ArrowRight: [0, 1] }[event.key];
  if (way) {
    beside(cell, ...way)?.focus();
    return true;
  }
  if (event.key === "Enter") {
    free = field;
    field.setSelectionRange(field.value.length, field.value.length);
    return true;
  }
  if (event.key === "Delete" || event.key === "Backspace") {
    put(field, "");
    return true;
  }
  if (event.key === ">") {
    const before = beside(cell, 0, -1);
    if (before) put(field, before.value || before.placeholder);
    return true;
  }
  if (/^[0-9]$/.test(event.key)) {
    if (cell.dataset.number === undefined && /^[1-3]$/.test(event.key)) {
      put(field, `${withoutDepth(field.value || "yes")} ${event.key}`);
      return true;
    }
    free = field;
    field.value = "";
    return false; // the digit begins a number
  }
  const state = states[event.key.toLowerCase()];
  if (state === undefined) return event.key.length === 1 && event.key !== " ";
  if (state.endsWith(" ")) { // and which
    free = field;
    field.value = state;
    return true;
  }
  put(field, state);
  return true;
}

const withoutDepth = (text) => text.replace(/ [1-3]$/, "");

function put(field, text) {
  if (field.value === text) return;
  field.value = text;
  field.dispatchEvent(new Event("change", { bubbles: true }));
}

// beside is the field so many rows and columns on.
function beside(cell, rows, columns) {
  const row = cell.parentElement;
  if (columns !== 0) return row.cells[cell.cellIndex + columns]?.querySelector("input[form]");
  const all = [...row.closest("table").querySelectorAll("tbody tr:has([data-cell])")];
  return all[all.indexOf(row) + rows]?.cells[cell.cellIndex]?.querySelector("input[form]");
}

// tell shows what is known of a row's feature beside the grid.
let told = "";
async function tell(row, go = false) {
  const link = row?.querySelector("[data-panel-link]");
  if (!link) return;
  const url = link.href.split("#")[0];
  if (told !== url || go) {
    told = url;
    const answer = await fetch(url, { headers: { Accept: "text/html" } }).catch(() => null);
    if (!answer?.ok || told !== url) return;
    const fresh = new DOMParser().parseFromString(await answer.text(), "text/html").querySelector("[data-panel]");
    const panel = document.querySelector("[data-panel]");
    if (!fresh || !panel || panel.contains(document.activeElement)) return;
    panel.replaceWith(fresh);
    history.replaceState(null, "", url);
  }
  if (go) document.querySelector("[data-panel] :is(input, select, textarea)")?.focus();
}
