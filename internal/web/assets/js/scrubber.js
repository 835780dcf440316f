// A line through the chart at one month: by pointer, by arrow keys, or from the list of changes. The
// counter shows that month while it stands.
import { select } from "../vendor/d3.min.js";

let at = null; // the month that is looked at; the chart may be drawn anew meanwhile

export function startScrubber(box, svg, data, frame) {
  const mark = svg.append("g").attr("class", "scrubber").attr("visibility", "hidden");
  mark.append("line").attr("y1", 20 * frame.scale).attr("y2", frame.bottom);
  const flag = mark.append("g");
  flag.append("rect").attr("height", 20 * frame.scale).attr("rx", 10 * frame.scale);
  flag.append("text").attr("y", 14 * frame.scale).attr("text-anchor", "middle");

  const show = (t) => {
    at = t;
    const px = frame.x(t + 0.5);
    const text = [data.months[t], data.usage[t]].filter(Boolean).join(" · ");
    flag.select("text").text(text);
    const half = flag.select("text").node().getComputedTextLength() / 2 + 10;
    const middle = Math.max(half, Math.min(frame.width - half, px));
    mark.attr("visibility", "visible");
    mark.select("line").attr("x1", px).attr("x2", px);
    flag.attr("transform", `translate(${middle} 0)`);
    flag.select("rect").attr("x", -half).attr("width", 2 * half);
    count(data, t);
    slider.attr("aria-valuenow", t).attr("aria-valuetext", `${text}: ` + data.options.map((o) => `${o.name} ${o.shown[t]} on ${o.plans[t]}`).join("; "));
  };
  const hide = () => {
    at = null;
    mark.attr("visibility", "hidden");
    showUsual();
  };

  const slider = select(box).attr("role", "slider").attr("tabindex", 0).attr("aria-label", "Month to look at").attr("aria-valuemin", 0).attr("aria-valuemax", data.months.length - 1).attr("aria-valuenow", 0).attr("aria-valuetext", data.months[0]);
  svg.on("pointermove", (event) => show(frame.monthAt(event.offsetX))).on("pointerleave", hide);
  slider.on("keydown", (event) => {
    const now = at ?? -1;
    const move = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (move && event.shiftKey) show((move > 0 ? data.marks.find((m) => m > now) : data.marks.findLast((m) => m < now)) ?? Math.max(0, now));
    else if (move) show(Math.max(0, Math.min(data.months.length - 1, now + move)));
    else if (event.key === "Home") show(0);
    else if (event.key === "End") show(data.months.length - 1);
    else if (event.key === "Escape") hide();
    else return;
    event.preventDefault();
  }).on("blur", hide);
  if (at !== null && document.activeElement === box) show(Math.min(at, data.months.length - 1));
  else at = null;
  for (const link of document.querySelectorAll("[data-at]")) {
    const t = Number(link.dataset.at);
    link.onpointerenter = link.onfocus = () => show(t);
    link.onpointerleave = link.onblur = hide;
  }
}

// stopScrubber takes the slider away where there is nothing to look at.
export function stopScrubber(box) {
  for (const name of [...box.getAttributeNames()]) if (name === "role" || name === "tabindex" || name.startsWith("aria-")) box.removeAttribute(name);
}

// count shows a month on the counter.
function count(data, t) {
  showOnCounter(data.options.map((o) => ({ key: o.key, cost: o.shown[t], plan: o.plans[t] })), `${data.months[t]}, ${data.view.toLowerCase()}`);
}

// showOnCounter shows what options cost where one looks; showUsual puts the whole horizon back.
export function showOnCounter(options, says) {
  for (const { key, cost, plan } of options) {
    const pile = document.querySelector(`[data-pile="${CSS.escape(key)}"]`);
    if (!pile) continue;
    write(pile.querySelector("[data-cost]"), cost);
    write(pile.querySelector("[data-plan]"), plan);
  }
  write(document.querySelector("[data-counter-says]"), says);
}

function write(place, text) {
  if (!place) return;
  place.dataset.usual ??= place.textContent;
  place.textContent = text;
}

export function showUsual() {
  for (const place of document.querySelectorAll("[data-counter] [data-usual]")) place.textContent = place.dataset.usual;
}
