// Drags the boundaries between levels of a current trace; what is dragged is typed into the form.
function shown(amperes) {
  const [scale, unit] = amperes >= 1 ? [1, "A"] : amperes >= 1e-3 ? [1e-3, "mA"] : [1e-6, "µA"];
  return `${Number((amperes / scale).toPrecision(3))} ${unit}`;
}

for (const svg of document.querySelectorAll("svg[data-levels]")) {
  const { levels, low, high, height } = svg.dataset;
  let held = null;
  const down = (event) => new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()).y;
  svg.addEventListener("pointerdown", (event) => {
    held = event.target.closest("[data-edge]");
    if (!held) return;
    svg.setPointerCapture(event.pointerId);
    svg.parentElement.parentElement.querySelector("details").open = true;
    event.preventDefault();
  });
  svg.addEventListener("pointermove", (event) => {
    if (!held) return;
    const y = Math.min(Math.max(down(event), 0), Number(height));
    const amperes = 10 ** (Number(high) - (Number(high) - Number(low)) * y / Number(height));
    held.setAttribute("d", held.getAttribute("d").replace(/^M0 [\d.]+/, `M0 ${y.toFixed(1)}`));
    document.querySelector(`[name="${levels}-edge-${held.dataset.edge}"]`).value = shown(amperes);
  });
  svg.addEventListener("pointerup", () => { held = null; });
}
