// Draws one sweep from the data on the page; the figures were computed on the server.
const SIZE = { height: 260, top: 12, right: 24, bottom: 26, left: 44 };

function drawSweep() {
  const source = document.getElementById("sweep-data");
  const host = document.querySelector("[data-sweep] .chart-plot");
  if (!source || !host) return;
  const { points, band, rule } = JSON.parse(source.textContent);
  const width = Math.max(Math.min(host.clientWidth, 980), 280);
  host.replaceChildren();
  const svg = d3.select(host).append("svg").attr("width", width).attr("height", SIZE.height).attr("role", "img")
    .attr("aria-labelledby", "sweep-title");
  const x = d3.scaleLinear().domain(d3.extent(points, (p) => p[0])).range([SIZE.left, width - SIZE.right]);
  const y = d3.scaleLinear().domain([0, Math.min(Math.max(d3.max(points, (p) => p[2]), 15), 40)]).nice().clamp(true).range([SIZE.top, SIZE.height - SIZE.bottom]);
  const held = band.map((f) => Math.min(Math.max(f, x.domain()[0]), x.domain()[1]));
  svg.append("rect").attr("class", "band-shade").attr("x", x(held[0])).attr("width", Math.max(x(held[1]) - x(held[0]), 1))
    .attr("y", SIZE.top).attr("height", SIZE.height - SIZE.bottom - SIZE.top);
  svg.append("g").attr("class", "grid").selectAll("line").data(y.ticks(5)).join("line")
    .attr("x1", SIZE.left).attr("x2", width - SIZE.right).attr("y1", y).attr("y2", y);
  svg.append("g").attr("class", "axis").attr("transform", `translate(0 ${SIZE.height - SIZE.bottom})`)
    .call(d3.axisBottom(x).ticks(6).tickSizeOuter(0));
  const side = svg.append("g").attr("class", "axis").attr("transform", `translate(${SIZE.left - 4} 0)`)
    .call(d3.axisLeft(y).ticks(5).tickSize(0));
  side.select(".domain").remove();
  svg.append("line").attr("class", "ruleline").attr("x1", SIZE.left).attr("x2", width - SIZE.right).attr("y1", y(rule.db)).attr("y2", y(rule.db));
  svg.append("text").attr("class", "words").attr("x", SIZE.left + 4).attr("y", y(rule.db) - 4).text(rule.words);
  svg.append("path").attr("class", "sweep-line").attr("d", d3.line().x((p) => x(p[0])).y((p) => y(p[2]))(points));
  const readout = d3.select(host).append("p").attr("class", "readout").text("Point at the curve for its figures.");
  svg.on("mousemove", (event) => {
    const at = x.invert(d3.pointer(event)[0]);
    const near = d3.least(points, (p) => Math.abs(p[0] - at));
    readout.text(`${near[0].toFixed(3)} MHz: VSWR ${near[1].toFixed(2)}, return loss ${near[2].toFixed(1)} dB`);
  });
}

document.addEventListener("inchmark:theme", drawSweep);
addEventListener("resize", drawSweep);
drawSweep();
