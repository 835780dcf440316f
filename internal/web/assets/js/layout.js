// Pure layout for the charts: where labels and ticks go.

// labelPlaces moves labels apart that would overlap: each keeps its wish where it can, none is closer
// than gap to the next, and none stands outside from and to while there is room.
export function labelPlaces(wanted, gap, from = -Infinity, to = Infinity) {
  const sorted = [...wanted].sort((a, b) => a.y - b.y).map((w) => ({ ...w, at: w.y }));
  for (let round = 0; round < 60; round++) {
    let moved = false;
    for (let i = 1; i < sorted.length; i++) {
      const overlap = gap - (sorted[i].at - sorted[i - 1].at);
      if (overlap > 0.01) {
        sorted[i - 1].at -= overlap / 2;
        sorted[i].at += overlap / 2;
        moved = true;
      }
    }
    if (!moved) break;
  }
  for (let i = sorted.length - 1, most = to; i >= 0; i--, most -= gap) sorted[i].at = Math.min(sorted[i].at, most);
  for (let i = 0, least = from; i < sorted.length; i++, least += gap) sorted[i].at = Math.max(sorted[i].at, least);
  return sorted;
}

// ticksOf returns at most about `most` months to name, evenly spaced by 1, 2, 3, 6 or 12 months.
export function ticksOf(months, most) {
  const step = [1, 2, 3, 6, 12, 24].find((s) => months / s <= most) ?? 36;
  return Array.from({ length: Math.ceil(months / step) }, (_, i) => i * step);
}

// monthAt returns the month that a horizontal position falls in.
export function monthAt(px, x, months) {
  return Math.max(0, Math.min(months - 1, Math.floor(x.invert(px))));
}
