// Follows a study: when it is changed elsewhere, the page is fetched anew and its parts are swapped,
// with a note of who changed what. A hidden page rests, and looks again when it is seen. Of the pages of
// a study that are seen at once in one browser one holds the stream, and passes on what it hears; where
// no stream comes through, a page looks now and then.
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
      rest(); // another page that is seen finds out for itself
      return;
    }
    ended = false;
    afterSwap();
    if (say && before !== last().last) note(last().lastSays);
  };
  const others = "BroadcastChannel" in window ? new BroadcastChannel(`study ${study}`) : null;
  if (others) others.onmessage = ({ data }) => { if (data !== tab && !document.hidden) inTurn(() => look(true)); };
  let resign = null; // lets another page hold the stream
  let looking = 0; // now and then
  let silent = 0; // until the stream comes through
  const rest = () => {
    stream?.close();
    resign?.();
    clearTimeout(silent);
    clearInterval(looking);
    looking = 0;
  };
  const follow = () => {
    rest();
    if (!others || !navigator.locks) { listen(); return; }
    const turn = new AbortController();
    resign = () => turn.abort();
    navigator.locks.request(`study ${study}`, { signal: turn.signal }, () => new Promise((done) => {
      resign = done;
      listen();
      others.postMessage(""); // who heard nothing while nobody held it looks
    })).catch(() => {});
  };
  const listen = () => {
    stream?.close();
    // What came between the page and its stream is told at once.
    stream = new EventSource(`/studies/${study}/events?${new URLSearchParams({ at: last().last })}`);
    let lost = false;
    const nowAndThen = () => {
      inTurn(() => look(true));
      others?.postMessage("");
    };
    clearTimeout(silent);
    silent = setTimeout(() => { looking ||= setInterval(nowAndThen, 20000); }, 6000);
    stream.addEventListener("following", () => { // it comes through
      clearTimeout(silent);
      clearInterval(looking);
      looking = 0;
    });
    stream.addEventListener("changed", (event) => {
      others?.postMessage(event.data);
      if (event.data !== tab) inTurn(() => look(true));
    });
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
    inTurn(() => look(true)).then(() => { if (!ended && stream.readyState === EventSource.CLOSED) listen(); });
  };
  document.addEventListener("visibilitychange", () => {
    rest();
    if (document.hidden) return;
    tries = 0;
    ended = false;
    inTurn(() => look(false));
    follow();
  });
  addEventListener("pagehide", rest);
  if (!document.hidden) follow();
}

function note(text) {
  if (!text) return;
  const place = document.querySelector("[data-note]");
  place.querySelector("[data-note-text]").textContent = text;
  place.hidden = false;
  place.querySelector("button").onclick = () => { place.hidden = true; };
}
