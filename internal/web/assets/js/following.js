// Follows a study: when it is changed elsewhere, the page is fetched anew and its parts are swapped,
// with a note of who changed what. A hidden page rests, and looks again when it is seen.
import { inTurn, swap, tab } from "./saving.js";

const last = () => document.querySelector('[data-part="main"]').dataset;

export function startFollowing(afterSwap) {
  const study = document.querySelector("[data-study]")?.dataset.study;
  if (!study) return;
  let stream = null;
  const look = async (say) => {
    const answer = await fetch(location.href).catch(() => null);
    if (!answer || answer.status >= 500) return; // it looks again when the stream comes back
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    const before = last().last;
    if (!swap(page)) {
      note(page.querySelector(".door") ? "Your session was ended. What is typed here stays: sign in, in another tab, and go on." : page.querySelector("[data-failure-text]")?.textContent);
      stream?.close();
      return;
    }
    afterSwap();
    if (say && before !== last().last) note(last().lastSays);
  };
  const follow = () => {
    stream?.close();
    stream = new EventSource(`/studies/${study}/events`);
    let lost = false;
    stream.addEventListener("changed", (event) => { if (event.data !== tab) inTurn(() => look(true)); });
    // A stream that comes back may have missed something; one that is refused is told why by a look.
    stream.addEventListener("open", () => { if (lost) inTurn(() => look(true)); lost = false; });
    stream.addEventListener("error", () => {
      lost = true;
      if (stream.readyState === EventSource.CLOSED) setTimeout(() => { if (!document.hidden) inTurn(() => look(false)).then(() => retry()); }, 2000);
    });
  };
  // Refused while the database was away, the stream is begun anew; where the page may not be seen it is not.
  let tries = 0;
  const retry = () => { if (stream.readyState === EventSource.CLOSED && ++tries < 40 && document.querySelector("[data-note]").hidden) follow(); };
  document.addEventListener("visibilitychange", () => {
    stream?.close();
    if (document.hidden) return;
    tries = 0;
    inTurn(() => look(false));
    follow();
  });
  addEventListener("pagehide", () => stream?.close());
  follow();
}

function note(text) {
  if (!text) return;
  const place = document.querySelector("[data-note]");
  place.querySelector("[data-note-text]").textContent = text;
  place.hidden = false;
  place.querySelector("button").onclick = () => { place.hidden = true; };
}
