// Follows a study: when it is changed elsewhere, the page is fetched anew and its parts are swapped,
// with a note of who changed what. A hidden page rests, and looks again when it is seen.
import { inTurn, swap, tab } from "./saving.js";

const last = () => document.querySelector('[data-part="main"]').dataset;

export function startFollowing(afterSwap) {
  const study = document.querySelector("[data-study]")?.dataset.study;
  if (!study) return;
  let stream = null;
  let ended = false; // this page may not be seen any more
  let tries = 0;
  const look = async (say) => {
    if (document.querySelector("[data-copy]")) return; // an address that is shown once stays to be copied
    const answer = await fetch(location.href).catch(() => null);
    if (!answer || answer.status >= 500) return; // it looks again when the stream comes back
    const page = new DOMParser().parseFromString(await answer.text(), "text/html");
    const before = last().last;
    if (!swap(page)) {
      note(page.querySelector(".door") ? "Your session was ended. What is typed here stays: sign in, in another tab, and go on." : page.querySelector("[data-failure-text]")?.textContent);
      ended = true;
      stream?.close();
      return;
    }
    ended = false;
    afterSwap();
    if (say && before !== last().last) note(last().lastSays);
  };
  const follow = () => {
    stream?.close();
    // What came between the page and its stream is told at once.
    stream = new EventSource(`/studies/${study}/events?${new URLSearchParams({ at: last().last })}`);
    let lost = false;
    stream.addEventListener("changed", (event) => { if (event.data !== tab) inTurn(() => look(true)); });
    // A stream that comes back may have missed something; one that is refused is told why by a look.
    stream.addEventListener("open", () => {
      if (lost) inTurn(() => look(true));
      lost = false;
      tries = 0;
    });
    stream.addEventListener("error", () => {
      lost = true;
      if (stream.readyState === EventSource.CLOSED) setTimeout(again, 2000);
    });
  };
  // Refused while the database was away, the stream is begun anew; where the page may not be seen it is not.
  const again = () => {
    if (document.hidden || ++tries > 60) return;
    inTurn(() => look(true)).then(() => { if (!ended && stream.readyState === EventSource.CLOSED) follow(); });
  };
  document.addEventListener("visibilitychange", () => {
    stream?.close();
    if (document.hidden) return;
    tries = 0;
    ended = false;
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
