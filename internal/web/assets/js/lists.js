// Lists: rows are dragged by their handle, moved with Alt and an arrow key, and removed with Alt and Delete.
// All of it goes through the forms that stand in each row.
import { fellBack } from "./focus.js";

const rowsOf = (row) => [...row.parentElement.querySelectorAll(":scope > [data-row]")];
const keyOf = (row) => {
  const path = row.querySelector("[data-item]").dataset.item;
  return path.slice(path.indexOf(".") + 1).replaceAll("~1", ".").replaceAll("~0", "~");
};
let gone = null; // where a row was that was removed with the focus in it

export function startLists() {
  document.addEventListener("keydown", (event) => {
    const row = event.altKey && !event.ctrlKey && !event.metaKey ? event.target.closest?.("[data-row]") : null;
    const way = { ArrowUp: "up", ArrowDown: "down" }[event.key];
    const form = row?.querySelector(way ? `[data-move="${way}"]` : event.key === "Delete" ? "[data-remove]" : "none");
    if (!form) return;
    event.preventDefault();
    if (!form.querySelector("button").disabled) form.requestSubmit();
  });
  document.addEventListener("submit", (event) => {
    if (!event.target.matches("[data-remove]")) return;
    const row = event.target.closest("[data-row]");
    gone = row?.contains(document.activeElement) ? { index: rowsOf(row).indexOf(row) } : null;
  }, true);
  document.addEventListener("pointerdown", (event) => {
    if (event.target.matches("[data-grip]") && event.button === 0) drag(event);
  });
}

// listsSwapped puts the focus beside a row that was removed.
export function listsSwapped() {
  if (gone && (fellBack || document.activeElement === document.body)) {
    const tools = document.querySelectorAll("[data-row] [data-remove] button");
    (tools[Math.min(gone.index, tools.length - 1)] ?? document.querySelector(".add summary"))?.focus();
  }
  gone = null;
}

function drag(start) {
  const grip = start.target;
  const row = grip.closest("[data-row]");
  const rows = rowsOf(row);
  let at = null;
  start.preventDefault();
  grip.setPointerCapture(start.pointerId);
  row.classList.add("dragged");
  const mark = () => rows.forEach((one, i) => {
    one.classList.toggle("drop-above", at === i);
    one.classList.toggle("drop-below", at === rows.length && i === rows.length - 1);
  });
  const move = (event) => {
    const middles = rows.map((one) => one.getBoundingClientRect()).map((box) => box.top + box.height / 2);
    at = middles.filter((middle) => middle < event.clientY).length;
    mark();
  };
  const end = (event) => {
    grip.removeEventListener("pointermove", move);
    row.classList.remove("dragged");
    const to = event.type === "pointerup" ? at : null;
    at = null;
    mark();
    const from = rows.indexOf(row);
    if (to === null || to === from || to === from + 1) return;
    const form = row.querySelector("[data-move]");
    form.elements.before.value = to < rows.length ? keyOf(rows[to]) : "";
    form.querySelector("button").disabled = false;
    form.requestSubmit();
  };
  grip.addEventListener("pointermove", move);
  grip.addEventListener("pointerup", end, { once: true });
  grip.addEventListener("pointercancel", end, { once: true });
}
