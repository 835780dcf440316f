// Follows a study: when it is changed elsewhere, the page is fetched anew and its parts are swapped,
// with a note. A hidden page rests, and looks again when it is seen.
import { inTurn, swap, tab } from "./saving.js";

export function startFollowing(afterSwap) {
  const study = document.querySelector("[data-study]")?.dataset.study;
  if (!study) return;
  let stream = null;
  const look = async (say) => {
    const answer = await fetch(location.href).catch(() => null);
    if (!answer) return;
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    const before = document.querySelector('[data-part="piles"]').innerHTML + undoLine(document);
    if (!swap(page)) {
      note(page.querySelector("[data-failure-text]")?.textContent);
      stream?.close();
      return;
    }
    afterSwap();
    if (say && before !== document.querySelector('[data-part="piles"]').innerHTML + undoLine(document)) note(`Changed in another tab or by a colleague. ${undoLine(document)}`);
  };
  const follow = () => {
    stream = new EventSource(`/studies/${study}/events`);
    stream.addEventListener("changed", (event) => { if (event.data !== tab) inTurn(() => look(true)); });
  };
  document.addEventListener("visibilitychange", () => {
    stream?.close();
    if (document.hidden) return;
    inTurn(() => look(false));
    follow();
  });
  addEventListener("pagehide", () => stream?.close());
  follow();
}

const undoLine = (page) => page.querySelector("[data-undo]")?.textContent.trim() ?? "";

function note(text) {
  if (!text) return;
  const place = document.querySelector("[data-note]");
  place.querySelector("[data-note-text]").textContent = text;
  place.hidden = false;
  place.querySelector("button").onclick = () => { place.hidden = true; };
}
