// Reads the figures of sweeps out where a pointer stands; the charts themselves are drawn on the server.
function nearest(points, mhz) {
  let best = points[0];
  for (const one of points) if (Math.abs(one[0] - mhz) < Math.abs(best[0] - mhz)) best = one;
  return best;
}

for (const figure of document.querySelectorAll("[data-sweep]")) {
  const { low, high, width, lines } = JSON.parse(figure.querySelector("script").textContent);
  const svg = figure.querySelector("svg"), readout = figure.querySelector(".readout");
  readout.textContent = "Point at the chart for its figures.";
  svg.addEventListener("pointermove", (event) => {
    const at = new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse());
    const mhz = low + (high - low) * Math.min(Math.max(at.x / width, 0), 1);
    const found = lines.map(({ label, points }) => [label, nearest(points, mhz)]);
    readout.textContent = `${found[0][1][0].toFixed(3)} MHz: ${found.map(([label, [, vswr, loss]]) => `${label ? `${label} ` : ""}VSWR ${vswr.toFixed(2)}, return loss ${loss.toFixed(1)} dB`).join("; ")}`;
  });
}
