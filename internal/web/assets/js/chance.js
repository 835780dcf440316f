// Simulates growth where it is asked for: the work tells how far it is, and ends when the page is left.
let leave = null;

export function startChance(refresh) {
  document.addEventListener("click", (event) => {
    const start = event.target.closest("[data-work-start]");
    if (!start || event.ctrlKey || event.metaKey || event.shiftKey) return;
    event.preventDefault();
    work(start.closest("[data-work]"), refresh);
  });
  addEventListener("pagehide", () => leave?.abort());
}

async function work(box, refresh) {
  leave?.abort();
  leave = new AbortController();
  const says = box.querySelector("[data-work-says]"), bar = box.querySelector("[data-work-bar]"), start = box.querySelector("[data-work-start]");
  bar.hidden = false;
  start.hidden = true;
  says.textContent = "Simulating …";
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
        if (now.done) says.textContent = `Simulating: ${now.done.toLocaleString("en-GB")} of ${now.of.toLocaleString("en-GB")} paths.`;
      }
    }
  } catch (error) {
    if (error.name === "AbortError") return;
    says.textContent = "That did not get through. Try again.";
    bar.hidden = true;
    start.hidden = false;
  }
}
