// Long work: what a page waits for is begun by itself or where it is asked for; it tells how far it is,
// and ends when the page is left.
let leave = null, under = null;

export function startWork(refresh) {
  document.addEventListener("click", (event) => {
    const start = event.target.closest("[data-work-start]");
    if (!start || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    work(start.closest("[data-work]"), refresh);
  });
  const begin = () => {
    const box = document.querySelector("[data-work-begins]");
    if (box && !document.hidden && under !== box) work(box, refresh);
  };
  document.addEventListener("swapped", () => { under = null; begin(); });
  document.addEventListener("visibilitychange", begin);
  addEventListener("pagehide", () => leave?.abort());
  begin();
}

async function work(box, refresh) {
  leave?.abort();
  leave = new AbortController();
  under = box;
  const says = box.querySelector("[data-work-says]"), bar = box.querySelector("[data-work-bar]"), start = box.querySelector("[data-work-start]");
  const { doing, unit } = box.dataset;
  bar.hidden = false;
  start.hidden = true;
  says.textContent = `${doing} …`;
  try {
    const answer = await fetch(box.dataset.work, { signal: leave.signal });
    if (!answer.ok) throw new Error();
    const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
    for (let rest = ""; ;) {
      const { value, done } = await reader.read();
      if (done) break;
      const lines = (rest + value).split("\n");
      rest = lines.pop();
      for (const line of lines) {
        const now = JSON.parse(line);
        if (now.fault) { says.textContent = now.fault; bar.hidden = true; return; }
        if (now.ready) { refresh(); return; }
        bar.max = now.of;
        bar.value = now.done;
        if (now.done) says.textContent = `${doing}: ${now.done.toLocaleString("en-GB")} of ${now.of.toLocaleString("en-GB")} ${unit}.`;
      }
    }
    throw new Error("it ended before it was done");
  } catch (error) {
    if (error.name === "AbortError") return;
    says.textContent = "That did not get through. Try again.";
    bar.hidden = true;
    start.hidden = false;
  }
}
