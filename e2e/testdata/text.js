// Makes all text of a page larger, as its reader can: every size that a style gives is doubled; or gives it the
// spacing of WCAG 1.4.12. Nothing else changes.
(() => {
  const each = (rules, change) => { for (const rule of rules) { if (rule.cssRules) each(rule.cssRules, change); if (rule.style) change(rule.style); } };
  const twice = (size) => size.replace(/([\d.]+)px/, (_, n) => `${2 * n}px`);
  const larger = (style) => {
    for (const name of ["font-size", "--bs-body-font-size"]) if (/px$/.test(style.getPropertyValue(name))) style.setProperty(name, twice(style.getPropertyValue(name)));
    if (!style.fontSize && /px/.test(style.font || style.getPropertyValue("font"))) style.setProperty("font", twice(style.getPropertyValue("font")));
  };
  const spaced = "* { line-height: 1.5 !important; letter-spacing: .12em !important; word-spacing: .16em !important; } p { margin-bottom: 2em !important; }";
  if (MODE === "larger") for (const sheet of document.styleSheets) each(sheet.cssRules, larger);
  else {
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(spaced);
    document.adoptedStyleSheets = [sheet];
  }
  return import(document.querySelector('script[type="module"]').src.replace("main.js", "charts.js")).then((m) => m.drawCharts());
})()
