// Saves the charts on the page as pictures.
// A saved picture carries its colours with it: computed styles are written into the copy.
function standalone(svg) {
  const copy = svg.cloneNode(true);
  const kept = ["fill", "stroke", "stroke-width", "stroke-dasharray", "opacity", "font-size", "font-family", "font-weight", "paint-order"];
  const from = [svg, ...svg.querySelectorAll("*")], to = [copy, ...copy.querySelectorAll("*")];
  from.forEach((one, i) => {
    const style = getComputedStyle(one);
    for (const name of kept) to[i].setAttribute(name, style.getPropertyValue(name));
  });
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  return new XMLSerializer().serializeToString(copy);
}

function save(name, blob) {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(blob);
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(link.href), 1000);
}

function saveCharts(kind) {
  for (const figure of document.querySelectorAll("[data-chart]")) {
    const svg = figure.querySelector("svg");
    if (!svg) continue;
    const text = standalone(svg);
    if (kind === "svg") save(`${figure.dataset.chart}.svg`, new Blob([text], { type: "image/svg+xml" }));
    else savePng(figure.dataset.chart, text, svg);
  }
}

function savePng(name, text, svg) {
  const image = new Image();
  image.addEventListener("load", () => {
    const canvas = document.createElement("canvas");
    canvas.width = 2 * svg.clientWidth;
    canvas.height = 2 * svg.clientHeight;
    const pen = canvas.getContext("2d");
    pen.fillStyle = getComputedStyle(document.body).backgroundColor;
    pen.fillRect(0, 0, canvas.width, canvas.height);
    pen.scale(2, 2);
    pen.drawImage(image, 0, 0);
    canvas.toBlob((blob) => save(`${name}.png`, blob));
  });
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-save]");
  if (button) saveCharts(button.dataset.save);
});
