// Says in words what changed and what follows, for those who do not see it; nothing where nothing changed.

// What a page shows of the last change and of who is first.
export function lookOf(page) {
  const main = page.querySelector('[data-part="main"]')?.dataset ?? {};
  const pile = page.querySelector(".pile.first");
  const cost = pile?.querySelector("[data-cost]");
  return {
    last: main.last, did: main.did, undid: main.undid,
    first: pile && { key: pile.dataset.pile, name: pile.querySelector(".pile-name").textContent.trim(), cost: cost.dataset.usual ?? cost.textContent },
  };
}

// What follows from a change for who is first.
export function follows(before, now) {
  if (!now) return before ? "No option is first any more." : "";
  if (!before) return `${now.name} is first, ${now.cost}.`;
  if (before.key === now.key) return `${now.name} stays first, ${now.cost}.`;
  return `${now.name} is first now, ${now.cost}, before ${before.name}.`;
}

// What was done, in words; "" where nothing changed.
export function changes(op, before, now) {
  if (before.last === now.last) return "";
  return [op === "undo" ? now.undid : now.did, follows(before.first, now.first)].filter(Boolean).join(" ");
}

export function saySaved(op, before, now) { say(changes(op, before, now)); }

// What was wrong, from beside the field, or from the notice where it has no field.
export function sayRefused(save) {
  const form = save.adds && document.getElementById(save.adds);
  const wrong = form?.querySelector("[aria-invalid]");
  wrong?.focus();
  const problem = document.getElementById(`${wrong?.id ?? save.field}-problem`) ?? form?.querySelector(".problem") ?? document.querySelector(".notice.trouble p");
  const words = problem && [...problem.childNodes].filter((node) => !node.matches?.(".ways")).map((node) => node.textContent).join(" ");
  say((words ?? "").replace(/\s+/g, " ").trim());
}

export function say(text) {
  const place = document.querySelector("[data-live-says]");
  if (text === place.textContent) place.textContent = ""; // the same again is said again
  if (text) setTimeout(() => { place.textContent = text; });
}
