// A driver over the horizon: three cases, history and its fit, the values at which bills step; a point is dragged,
// or moved by keys, and the twelve factors of its season below. Values come worked out; only positions are found here.
import { axisLeft, line, scaleLinear, select } from "../vendor/d3.min.js";
import { startSheetSaving } from "./picture.js";

const left = 52, right = 10, top = 14, plot = 178, gap = 40, bars = 54;
let at = null; // the month that is looked at

export function drawGrowth(box, data) {
  const held = box.contains(document.activeElement) ? document.activeElement.dataset.hold : null;
  box.replaceChildren();
  const width = box.clientWidth;
  if (!data || !width) return;
  const n = data.months.length, first = Math.min(0, ...data.history.map((h) => h.t));
  const all = [...data.expected, ...(data.low ?? []), ...(data.high ?? []), ...data.history.map((h) => h.value), ...data.steps.slice(0, 1).map((s) => s.value)];
  const x = scaleLinear([first, Math.max(first + 1, n - 1)], [left, width - right]);
  const y = scaleLinear([0, Math.max(1, ...all)], [top + plot, top]).nice(4);
  const height = top + plot + gap + bars + 18;
  const svg = select(box).append("svg").attr("viewBox", `0 0 ${width} ${height}`).attr("width", width).attr("height", height);
  const axis = svg.append("g").attr("class", "axis").attr("transform", `translate(${left} 0)`)
    .call(axisLeft(y).ticks(4).tickSize(-(width - left - right)).tickPadding(6).tickFormat(short));
  axis.select(".domain").remove();
  years(svg, data, x);
  const along = line().x((v, t) => x(t)).y((v) => y(v));
  if (data.low) {
    svg.append("path").attr("class", "band").attr("d", `${along(data.high)}L${data.low.map((v, t) => `${x(t)},${y(v)}`).reverse().join("L")}Z`);
  }
  const mine = data.case === "expected" ? data.expected : data[data.case] ?? data.expected;
  if (mine !== data.expected) svg.append("path").attr("class", "other").attr("d", along(data.expected));
  past(svg, data, x, y);
  svg.append("path").attr("class", "course").attr("d", n > 1 ? along(mine) : `M${x(0)} ${y(mine[0])}h${width - left - right}`);
  steps(svg, data, x, y, width);
  knob(box, svg, data, mine, x, y);
  season(box, svg, data, width, top + plot + gap);
  const figure = box.closest("[data-growth]");
  if (figure) startSheetSaving(figure, svg.node());
  if (held) box.querySelector(`[data-hold="${held}"]`)?.focus();
}

const short = (v) => (v >= 1e6 ? `${v / 1e6}m` : v >= 1e4 ? `${v / 1e3}k` : v.toLocaleString("en-GB"));

function years(svg, data, x) {
  let free = -Infinity;
  data.years.forEach((year, t) => {
    if (!year || x(t) < free) return;
    svg.append("text").attr("x", x(t)).attr("y", top + plot + 16).text(t === 0 && data.history.length ? `${data.months[0]}` : year);
    free = x(t) + (t === 0 && data.history.length ? 62 : 38);
  });
}

// past draws what was counted, and how far the fit lies off.
function past(svg, data, x, y) {
  const fitted = data.history.filter((h) => h.fitted > 0);
  if (fitted.length) svg.append("path").attr("class", "fitted").attr("d", line().x((h) => x(h.t)).y((h) => y(h.fitted))(fitted));
  for (const h of data.history) {
    if (h.fitted > 0) svg.append("path").attr("class", "off").attr("d", `M${x(h.t)} ${y(h.value)}V${y(h.fitted)}`);
    svg.append("circle").attr("class", "past").attr("cx", x(h.t)).attr("cy", y(h.value)).attr("r", 2.4).append("title").text(h.says);
  }
}

// steps draws the lines first, so that none crosses a name; names that would lie on one another move up.
function steps(svg, data, x, y, width) {
  const seen = data.steps.filter((step) => step.value <= y.domain()[1]).sort((a, b) => a.value - b.value);
  for (const step of seen) svg.append("path").attr("class", "step-at").attr("d", `M${left} ${y(step.value)}H${width - right}`);
  let free = Infinity;
  for (const step of seen) {
    const at = Math.min(y(step.value) - 4, free - 13);
    if (at < top + 8 || y(step.value) - at > 30) continue;
    svg.append("text").attr("class", "step-name").attr("x", left + 4).attr("y", at).text(step.says);
    free = at;
  }
}

// knob is the point that is dragged: it sends where the course is to lead.
function knob(box, svg, data, mine, x, y) {
  const n = mine.length;
  at = Math.min(at ?? n - 1, n - 1);
  const mark = svg.append("g").attr("class", "growth-knob");
  const stem = mark.append("path").attr("class", "at");
  const hold = mark.append("circle").attr("class", "hold").attr("r", data.may ? 20 : 0); // for fingers
  const dot = mark.append("circle").attr("class", "knob").attr("r", 6).attr("data-hold", "knob");
  const says = mark.append("text").attr("class", "says");
  const show = (value = mine[at]) => {
    const px = x(at), py = y(value);
    stem.attr("d", `M${px} ${top}V${top + plot}`);
    dot.attr("cx", px).attr("cy", py);
    hold.attr("cx", px).attr("cy", py);
    const text = value === mine[at] ? data.shown[at] : written(value);
    says.text(`${data.months[at]} · ${text}`).attr("x", px > box.clientWidth / 2 ? px - 8 : px + 8)
      .attr("text-anchor", px > box.clientWidth / 2 ? "end" : "start").attr("y", top - 2);
    dot.attr("aria-valuenow", at).attr("aria-valuetext", `${data.months[at]}: ${text}`);
  };
  const slider = { role: "slider", tabindex: 0, "aria-label": `Month of ${data.name}`, "aria-valuemin": 0, "aria-valuemax": n - 1 };
  for (const [name, value] of Object.entries(slider)) dot.attr(name, value);
  show();
  const month = (event) => Math.max(0, Math.min(n - 1, Math.round(x.invert(event.offsetX))));
  let dragged = null;
  svg.on("pointermove", (event) => {
    if (event.offsetY > top + plot) return;
    if (dragged !== null) show(dragged = Math.max(0, y.invert(Math.max(2, event.offsetY))));
    else if (event.pointerType === "mouse" && !event.buttons) { at = month(event); show(); }
  }).on("pointerdown", (event) => {
    if (event.offsetY > top + plot || event.target.matches(".bar")) return;
    const finger = event.pointerType === "touch", held = event.target.matches(".hold, .knob");
    if (!finger || !held) at = month(event);
    show();
    // A finger that scrolls the page passes over the course: it takes the point alone.
    if (!data.may || (finger ? !held : Math.abs(event.offsetY - y(mine[at])) > 16)) return;
    dragged = mine[at];
    svg.node().setPointerCapture(event.pointerId);
    event.preventDefault();
  }).on("pointerup", () => {
    if (dragged !== null && dragged !== mine[at]) lead(data, at, dragged);
    dragged = null;
  }).on("pointercancel", () => { dragged = null; show(); });
  svg.node().addEventListener("touchstart", (event) => { if (dragged !== null) event.preventDefault(); }, { passive: false });
  let wish = null, timer = 0;
  box.onkeydown = (event) => {
    const move = { ArrowRight: 1, ArrowLeft: -1, PageUp: 12, PageDown: -12 }[event.key];
    const raise = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (!event.target.matches(".knob") || event.altKey || event.ctrlKey) return;
    if (move) { at = Math.max(0, Math.min(n - 1, at + move)); wish = null; show(); }
    else if (event.key === "Home" || event.key === "End") { at = event.key === "Home" ? 0 : n - 1; wish = null; show(); }
    else if (raise && data.may) {
      const now = wish ?? mine[at];
      wish = Math.max(0, now + raise * Math.max(1, now / 100));
      show(wish);
      clearTimeout(timer);
      timer = setTimeout(() => { lead(data, at, wish); wish = null; }, 600);
    } else return;
    event.preventDefault();
  };
}

const written = (value) => (value >= 100 ? Math.round(value).toLocaleString("en-GB") : String(Math.round(value * 100) / 100));

// lead sends that the course is to lead through a value.
function lead(data, t, value) {
  const form = document.getElementById("bend-form");
  if (!form) return;
  form.elements.before.value = data.iso[t];
  form.elements.value.value = value >= 100 ? Math.round(value) : Math.round(value * 100) / 100;
  form.requestSubmit();
}

const letters = "JFMAMJJASOND";

// season draws the twelve factors as bars, each of which is dragged or moved by keys.
function season(box, svg, data, width, from) {
  const fields = [...document.querySelectorAll(".season-fields input[inputmode]")];
  const most = Math.max(1.5, ...data.season);
  const room = (width - left - right) / 12;
  const up = scaleLinear([0, most], [from + bars, from]);
  data.season.forEach((factor, i) => {
    const bar = svg.append("rect").attr("class", factor < 1 ? "bar low" : "bar").attr("x", left + i * room + 1).attr("width", Math.max(2, room - 3))
      .attr("y", up(factor)).attr("height", Math.max(1, from + bars - up(factor)));
    bar.append("title").text(`${factor}`);
    svg.append("text").attr("x", left + (i + 0.5) * room).attr("y", from + bars + 14).attr("text-anchor", "middle").text(letters[i]);
    const field = fields[i];
    if (!data.may || !field) return;
    let to = factor;
    const put = (value) => {
      to = Math.max(0, Math.round(value * 100) / 100);
      bar.attr("y", up(Math.min(most, to))).attr("height", Math.max(1, from + bars - up(Math.min(most, to))));
    };
    const keep = () => {
      if (to === factor) return;
      field.value = String(to);
      field.dispatchEvent(new Event("change", { bubbles: true }));
    };
    bar.attr("data-hold", `bar-${i}`).attr("tabindex", 0).attr("role", "slider").attr("aria-label", field.getAttribute("aria-label"))
      .attr("aria-valuemin", 0).attr("aria-valuemax", 20).attr("aria-valuenow", factor);
    bar.on("keydown", (event) => {
      const step = { ArrowUp: 0.05, ArrowDown: -0.05 }[event.key];
      const beside = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
      if (step) { put(to + step); bar.attr("aria-valuenow", to); }
      else if (beside) svg.selectAll(".bar").nodes()[i + beside]?.focus();
      else if (event.key === "Enter") keep();
      else return;
      event.preventDefault();
      event.stopPropagation();
    }).on("blur", keep);
    // Fingers scroll over the bars; they type into the fields below.
    bar.on("pointerdown", (event) => {
      if (event.pointerType === "touch") return;
      bar.node().setPointerCapture(event.pointerId);
      event.preventDefault();
      event.stopPropagation();
    }).on("pointermove", (event) => {
      if (event.buttons && event.pointerType !== "touch") put(up.invert(Math.max(from - 6, event.offsetY)));
    }).on("pointerup", keep).on("pointercancel", () => put(factor));
  });
}
