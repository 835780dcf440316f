// Saves a chart as a picture of its own: styles are written into a copy, faces are taken along.

const kept = ["fill", "fill-opacity", "stroke", "stroke-width", "stroke-opacity", "stroke-dasharray", "font-family", "font-size", "font-weight", "text-anchor", "visibility"];

export function startSheetSaving(figure, svg) {
  for (const button of figure.querySelectorAll("[data-save]")) {
    button.onclick = () => (button.dataset.save === "svg" ? saveSVG(svg) : savePNG(svg));
  }
}

function copyOf(svg) {
  const copy = svg.cloneNode(true);
  const from = svg.querySelectorAll("*"), to = copy.querySelectorAll("*");
  from.forEach((node, i) => {
    const style = getComputedStyle(node);
    for (const name of kept) to[i].setAttribute(name, style.getPropertyValue(name));
  });
  const used = new Set([...copy.querySelectorAll("use")].map((use) => use.getAttribute("href")));
  const defs = document.createElementNS(svg.namespaceURI, "defs");
  for (const href of used) defs.append(document.querySelector(href).cloneNode(true));
  copy.prepend(defs);
  copy.querySelector(".scrubber")?.remove();
  copy.setAttribute("xmlns", svg.namespaceURI);
  return new Blob([new XMLSerializer().serializeToString(copy)], { type: "image/svg+xml" });
}

function saveSVG(svg) { download(copyOf(svg), "chart.svg"); }

async function savePNG(svg) {
  const { width, height } = svg.viewBox.baseVal;
  const image = new Image();
  const data = await copyOf(svg).text();
  image.src = "data:image/svg+xml;charset=utf-8," + encodeURIComponent(data);
  await image.decode();
  const canvas = Object.assign(document.createElement("canvas"), { width: 2 * width, height: 2 * height });
  const pen = canvas.getContext("2d");
  pen.fillStyle = "#FFFDF7";
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.drawImage(image, 0, 0, canvas.width, canvas.height);
  canvas.toBlob((blob) => download(blob, "chart.png"), "image/png");
}

function download(blob, name) {
  const link = Object.assign(document.createElement("a"), { href: URL.createObjectURL(blob), download: name });
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}
