// Makes a part of the page like a fresh one, node by node: what is the same stays as it is, with its focus
// and what it shows. What is typed in any form and was not saved yet stays too.
import { Idiomorph } from "../vendor/morph.min.js";

// What a form is an edit of: its answer settles what was typed there.
export const answers = (data) => [data.get("op") ?? data.get("edit"), data.get("path") ?? data.get("of")].join("|");

// A field is changed where it stands; its name tells what it is a value of.
export const isField = (node) => node.matches?.("[name^='value.']") && node.form?.matches(".row-form") === true;
export const pathOf = (field) => field.name.slice("value.".length);
export const wasOf = (field) => field.form.elements[`was.${pathOf(field)}`];

export function isDirty(control) {
  if (control.matches("select")) {
    const usual = [...control.options].findIndex((option) => option.defaultSelected);
    return control.selectedIndex !== Math.max(usual, 0);
  }
  if (control.matches("[type=checkbox], [type=radio]")) return control.checked !== control.defaultChecked;
  return control.matches("input:not([type=hidden], [type=file]), textarea") && control.value !== control.defaultValue;
}

// settled is what was sent and is answered now, as it was sent; null for nothing.
export function morph(part, fresh, settled) {
  const typed = [...part.querySelectorAll("input, select, textarea")].filter((control) => control.id && isDirty(control)).map(taken);
  Idiomorph.morph(part, fresh.innerHTML, {
    morphStyle: "innerHTML",
    callbacks: {
      // A chart is drawn anew where it stands.
      beforeNodeMorphed: (node) => !node.matches?.("[data-chart], [data-bars], [data-curve], [data-growth-chart], [data-lines], [data-plane]"),
      // A panel that was opened stays open.
      beforeAttributeUpdated: (name, node) => !(name === "open" && node.matches("details, dialog")),
    },
  });
  for (const one of typed) {
    const answered = settled !== null && one.answers === answers(settled);
    const sent = answered ? settled.get(one.field ? "value" : one.name) : null;
    // What was typed, or sent, after that is not answered yet and stays.
    if (!answered) putBack(one);
    else if (one.value !== sent) putBack({ ...one, was: undefined, sent: one.sent === sent ? undefined : one.sent });
  }
  // An answer with something wrong in it opens the panel in which that is told.
  part.querySelector("details:not([open]) [aria-invalid]")?.closest("details").setAttribute("open", "");
}

function taken(control) {
  return {
    id: control.id, name: control.name, field: isField(control), value: control.value, checked: control.checked, sent: control.dataset.sent,
    answers: isField(control) ? `set|${pathOf(control)}` : control.form ? answers(new FormData(control.form)) : "", was: isField(control) ? wasOf(control).value : undefined,
  };
}

function putBack(one) {
  const control = document.getElementById(one.id);
  if (!control || control.matches("[aria-invalid]")) return;
  control.value = one.value;
  if (one.checked !== undefined) control.checked = one.checked;
  if (one.sent !== undefined) {
    control.dataset.sent = one.sent;
    control.classList.add("saving");
  }
  if (isField(control) && one.was !== undefined && one.sent === undefined) wasOf(control).value = one.was;
}
