// Looks at a page for what is laid out wrongly: what stands out at the side, words that stand on each other, and
// words that are cut off. Gives JSON.
(() => {
  const found = { overflow: [], overlaps: [], cut: [] };
  const name = (e) => e.tagName.toLowerCase() + (e.id ? "#" + e.id : "") + (e.className && e.className.baseVal === undefined ? "." + String(e.className).trim().replace(/\s+/g, ".") : "") + " “" + (e.textContent || "").trim().replace(/\s+/g, " ").slice(0, 40) + "”";
  const style = (e) => getComputedStyle(e);
  const scrolls = (s) => /auto|scroll/.test(s.overflowX);
  const width = document.documentElement.clientWidth;
  const inScroller = (e) => {
    for (let a = e.parentElement; a && a !== document.body; a = a.parentElement) if (scrolls(style(a)) && a.scrollWidth > a.clientWidth + 1 && a.id !== "main") return true;
    return false;
  };
  // What is seen of a box: what its ancestors leave of it.
  const seen = (e, box) => {
    let { left, top, right, bottom } = box;
    for (let a = e; a && a !== document.documentElement; a = a.parentElement) {
      const s = style(a);
      if (s.visibility === "hidden" || s.display === "none" || Number(s.opacity) === 0) return null;
      if (s.clipPath !== "none" && a.classList.contains("visually-hidden")) return null;
      if (a.classList.contains("visually-hidden")) return null;
      if (/hidden|clip|auto|scroll/.test(s.overflowX + s.overflowY)) {
        const r = a.getBoundingClientRect();
        left = Math.max(left, r.left); right = Math.min(right, r.right); top = Math.max(top, r.top); bottom = Math.min(bottom, r.bottom);
      }
      if (s.position === "fixed") break;
    }
    return right - left > 2 && bottom - top > 2 ? { left, top, right, bottom } : null;
  };
  // WCAG 1.4.11 and, for what is drawn, 1.4.3: how the edges of fields, the ring about what has the focus and the
  // words of charts stand out from what lies behind them.
  const channel = (c) => (c / 255 <= 0.03928 ? c / 255 / 12.92 : ((c / 255 + 0.055) / 1.055) ** 2.4);
  const rgba = (text) => { const n = (text.match(/[\d.]+/g) ?? []).map(Number); return n.length < 3 ? null : [...n.slice(0, 3), n[3] ?? 1]; };
  const light = ([r, g, b]) => 0.2126 * channel(r) + 0.7152 * channel(g) + 0.0722 * channel(b);
  const apart = (a, b) => (Math.max(light(a), light(b)) + 0.05) / (Math.min(light(a), light(b)) + 0.05);
  const behind = (e) => {
    for (let a = e; a; a = a.parentElement) { const c = rgba(style(a).backgroundColor); if (c && c[3] === 1) return c; }
    return [255, 255, 255, 1];
  };
  found.faint = [];
  for (const e of document.querySelectorAll("input:not([type=hidden], [type=checkbox]), select, textarea")) {
    if (!e.checkVisibility()) continue;
    const edge = rgba(style(e).borderBottomColor);
    if (apart(edge, behind(e.parentElement)) < 3) found.faint.push("edge of " + name(e));
  }
  for (const e of document.querySelectorAll("svg.cost-lines text, .bars text")) {
    const ink = rgba(style(e).fill);
    const below = e.matches(".on-dark, .on-light") ? rgba(style(e.parentElement.querySelector("rect")).fill) : e.closest(".scrubber") ? [29, 42, 43, 1] : behind(e.closest("div"));
    if (ink && apart(ink, below) < 4.5) found.faint.push("words of " + name(e));
  }
  for (const g of document.querySelectorAll(".bars g > use")) {
    const shades = [...g.parentElement.querySelectorAll("rect:not(.stripe)")].map((r) => rgba(style(r).fill));
    shades.forEach((shade, i) => { if (i > 0 && apart(shade, shades[i - 1]) < 3) found.faint.push("part " + i + " of a bar"); });
  }
  const kinds = new Set(); // one of each kind that looks alike
  for (const e of document.querySelectorAll(".head a, .main button, .main a")) {
    const kind = e.tagName + e.className + e.parentElement.className;
    if (kinds.has(kind) || !e.checkVisibility()) continue;
    kinds.add(kind);
    e.focus({ preventScroll: true, focusVisible: true });
    const ring = rgba(style(e).outlineColor);
    if (e.matches(":focus-visible") && apart(ring, behind(e.parentElement)) < 3) found.faint.push("focus ring of " + name(e));
    e.blur();
    if (found.faint.length > 5) break;
  }
  if (document.documentElement.scrollWidth > width + 1) found.overflow.push("the page is " + document.documentElement.scrollWidth + " wide");
  const main = document.getElementById("main");
  if (main && main.scrollWidth > main.clientWidth + 1) found.overflow.push("main is " + main.scrollWidth + " wide in " + main.clientWidth);
  for (const e of document.body.querySelectorAll("*")) {
    if (e.closest("details:not([open]) > :not(summary), svg, dialog, [hidden], .offcanvas, .visually-hidden, .skip, .snag")) continue;
    const r = e.getBoundingClientRect();
    if (r.width && (r.right > width + 1 || r.left < -1) && !inScroller(e) && seen(e.parentElement, r) && !["BODY", "MAIN"].includes(e.tagName) && found.overflow.length < 4) found.overflow.push(name(e) + " to " + Math.round(r.right));
    const s = style(e);
    const own = [...e.childNodes].some((n) => n.nodeType === 3 && n.data.trim());
    if (own && e.clientWidth > 2 && /hidden|clip/.test(s.overflowX) && e.scrollWidth > e.clientWidth + 1 && !e.title && !e.closest("[title]")) found.cut.push(name(e));
    if (/^(INPUT|TEXTAREA)$/.test(e.tagName) && e.type !== "hidden" && e.scrollWidth > e.clientWidth + 1 && e.tagName === "INPUT" && e.inputMode === "decimal" && seen(e, r)) found.cut.push("field " + (e.id || e.name) + " “" + e.value + "”");
  }
  // What stays in place while the rest scrolls beneath it hides that, and is meant to.
  const stays = (e) => {
    for (let a = e; a && a !== document.body; a = a.parentElement) if (style(a).position === "sticky") return true;
    return false;
  };
  const words = [];
  const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
  for (let n = walker.nextNode(); n; n = walker.nextNode()) {
    if (!n.data.trim() || n.parentElement.closest("details:not([open]) > :not(summary), script, style, noscript, dialog, [hidden], .offcanvas, .visually-hidden, .skip, .snag, option, title, textarea")) continue;
    const range = document.createRange();
    range.selectNodeContents(n);
    for (const box of range.getClientRects()) {
      const b = box.width > 2 && box.height > 4 && seen(n.parentElement, box);
      if (b) words.push({ b, e: n.parentElement, n, stays: stays(n.parentElement) });
    }
  }
  words.sort((x, y) => x.b.top - y.b.top);
  for (let i = 0; i < words.length && found.overlaps.length < 6; i++) {
    const x = words[i];
    for (let j = i + 1; j < words.length && words[j].b.top < x.b.bottom; j++) {
      const y = words[j];
      if (x.n === y.n || x.stays !== y.stays) continue;
      const w = Math.min(x.b.right, y.b.right) - Math.max(x.b.left, y.b.left);
      const h = Math.min(x.b.bottom, y.b.bottom) - y.b.top;
      const least = Math.min(x.b.bottom - x.b.top, y.b.bottom - y.b.top);
      if (w > 3 && h > least * 0.4) found.overlaps.push("“" + x.n.data.trim().slice(0, 30) + "” and “" + y.n.data.trim().slice(0, 30) + "” in " + name(x.e).slice(0, 50));
    }
  }
  return JSON.stringify(found);
})()
