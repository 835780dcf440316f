// A price page as it is read: a figure and what was read of it light each other, under the pointer and in focus.
// What is pasted with its tables and headings is sent with them.
export function startReading() {
  const light = (ids, on) => {
    for (const id of ids) {
      for (const one of document.querySelectorAll(`[data-claim="${CSS.escape(id)}"], [data-claims~="${CSS.escape(id)}"]`)) one.classList.toggle("lit-claim", on);
    }
  };
  const idsOf = (target) => {
    const one = target.closest?.("[data-claim], [data-claims]");
    return one ? (one.dataset.claims ?? one.dataset.claim).split(" ") : null;
  };
  for (const [event, on] of [["pointerover", true], ["pointerout", false], ["focusin", true], ["focusout", false]]) {
    document.addEventListener(event, (e) => {
      const ids = idsOf(e.target);
      if (ids) light(ids, on);
    });
  }
  document.addEventListener("click", (event) => {
    const item = event.target.closest("[data-claim]");
    const mark = item && document.querySelector(`[data-claims~="${CSS.escape(item.dataset.claim)}"]`);
    if (mark) mark.scrollIntoView({ block: "nearest" });
  });
  document.addEventListener("paste", (event) => {
    const field = event.target;
    if (!field.matches?.("[data-paste-page]")) return;
    const html = event.clipboardData?.getData("text/html") ?? "";
    const into = field.form.elements.html;
    into.value = html.includes("<") ? html : "";
    const note = field.form.querySelector("[data-paste-note]");
    note.textContent = into.value ? "Its tables and headings came along." : "";
  });
  // What is changed by hand after that goes as it stands.
  document.addEventListener("beforeinput", (event) => {
    if (event.target.matches?.("[data-paste-page]") && event.inputType !== "insertFromPaste") event.target.form.elements.html.value = "";
  });
}
