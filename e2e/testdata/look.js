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
