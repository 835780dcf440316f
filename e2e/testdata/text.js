// Makes all text of a page larger, as its reader can: every size that a style gives is doubled; or gives it the
// spacing of WCAG 1.4.12. Nothing else changes.
(() => {
  const each = (rules, change) => { for (const rule of rules) { if (rule.cssRules) each(rule.cssRules, change); if (rule.style) change(rule.style); } };
  const larger = (style) => { if (/px$/.test(style.fontSize)) style.fontSize = 2 * parseFloat(style.fontSize) + "px"; };
  const spaced = "* { line-height: 1.5 !important; letter-spacing: .12em !important; word-spacing: .16em !important; } p { margin-bottom: 2em !important; }";
  if (MODE === "larger") for (const sheet of document.styleSheets) each(sheet.cssRules, larger);
  else {
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(spaced);
    document.adoptedStyleSheets = [sheet];
  }
  return import(document.querySelector('script[type="module"]').src.replace("main.js", "charts.js")).then((m) => m.drawCharts());
})()
