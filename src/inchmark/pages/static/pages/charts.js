// Draws the two charts of Read from the data on the page; every figure was computed on the server.
const HEIGHT = 240;
const MARGIN = { top: 14, right: 26, bottom: 24, left: 44 };
const SYMBOLS = { A: "symbolSquare", B: "symbolCircle", C: "symbolTriangle", D: "symbolDiamond", E: "symbolCross", F: "symbolWye" };
const hue = (letter) => `rig-${"abcdef"[(letter.charCodeAt(0) - 65) % 6]}`;
const symbol = (letter) => d3[SYMBOLS["ABCDEF"[(letter.charCodeAt(0) - 65) % 6]]];
const minus = (text) => String(text).replace("-", "\u2212");
const metres = (d) => (d >= 1000 ? `${+(d / 1000).toPrecision(3)} km` : `${+d.toPrecision(3)} m`);
const level = (x) => (x === null ? "\u2013" : `${minus(x.toFixed(1))} dBm`);
const share = (x) => `${Math.round(100 * x)} %`;

function frame(host, data) {
  const width = Math.max(host.clientWidth, 280);
  host.replaceChildren();
  const svg = d3.select(host).append("svg").attr("width", width).attr("height", HEIGHT + MARGIN.top + MARGIN.bottom)
    .attr("role", "group");
  const far = d3.max(data.points, (p) => p.distance) * 1.6;
  const near = d3.min(data.points, (p) => p.distance) * 0.8;
  const x = d3.scaleLog().domain([near, far]).range([MARGIN.left, width - MARGIN.right]);
  const ticks = [1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000].filter((d) => d >= near && d <= far);
  svg.append("g").attr("class", "axis").attr("transform", `translate(0 ${MARGIN.top + HEIGHT - 18})`)
    .call(d3.axisBottom(x).tickValues(ticks).tickFormat(metres).tickSizeOuter(0));
  const readout = d3.select(host).append("p").attr("class", "readout").attr("aria-live", "polite")
    .text("Point at or tab to a mark for its figures.");
  return { svg, x, width, readout };
}

function side(svg, y, width, format) {
  svg.insert("g", ":first-child").attr("class", "grid").selectAll("line").data(y.ticks(6)).join("line")
    .attr("x1", MARGIN.left).attr("x2", width - MARGIN.right).attr("y1", y).attr("y2", y);
  const axis = svg.append("g").attr("class", "axis").attr("transform", `translate(${MARGIN.left - 4} 0)`)
    .call(d3.axisLeft(y).ticks(6).tickFormat(format).tickSize(0));
  axis.select(".domain").remove();
}

// Rigs share stops, so their points are set a little apart: a drawing aid, the data keep the distance.
function spread(data, x) {
  const letters = data.rigs.map((rig) => rig.letter);
  return (p) => x(p.distance) + (letters.indexOf(p.rig) - (letters.length - 1) / 2) * 6;
}

function words(p) {
  const lost = `${p.heard} of ${p.sent} heard, ${share(p.delivered[1])} to ${share(p.delivered[2])} delivered`;
  const strong = p.level[0] === null ? "" : `; level ${level(p.level[0])} (${level(p.level[1])} to ${level(p.level[2])})`;
  const alone = p.survivors === null ? "" : `, heard ones alone ${level(p.survivors)}`;
  return `${p.rig} at stop ${p.stop}, ${metres(p.distance)}: ${lost}${strong}${alone}`;
}

function points(chart, data, at, draw) {
  const marks = chart.svg.append("g").selectAll("a").data(data.points).join("a")
    .attr("href", (p) => p.url).attr("class", (p) => hue(p.rig)).attr("aria-label", words);
  marks.each(function (p) { draw(d3.select(this), p, at(p)); });
  const tell = (event, p) => chart.readout.text(words(p));
  marks.on("mouseenter", tell).on("focus", tell);
}

function curves(chart, data, y, name) {
  for (const rig of data.rigs) {
    const rows = rig.curve.filter((row) => row[name] !== undefined);
    if (!rows.length) continue;
    const group = chart.svg.append("g").attr("class", hue(rig.letter));
    const band = d3.area().x((r) => chart.x(r.distance_m)).y0((r) => y(r[`${name}_low`])).y1((r) => y(r[`${name}_high`]));
    const line = d3.line().x((r) => chart.x(r.distance_m)).y((r) => y(r[name]));
    group.append("path").attr("class", "band").attr("d", band(rows));
    group.append("path").attr("class", "curve").attr("d", line(rows));
    const last = rows[rows.length - 1];
    group.append("text").attr("class", "direct").attr("x", chart.x(last.distance_m) + 4).attr("y", y(last[name]) + 4).text(rig.letter);
  }
}

function delivery(host, data) {
  const chart = frame(host, data);
  const y = d3.scaleLinear().domain([0, 1]).range([MARGIN.top + HEIGHT - 22, MARGIN.top]);
  side(chart.svg, y, chart.width, (v) => `${Math.round(v * 100)}%`);
  chart.svg.append("line").attr("class", "ruleline").attr("x1", MARGIN.left).attr("x2", chart.width - MARGIN.right)
    .attr("y1", y(1 - data.loss)).attr("y2", y(1 - data.loss));
  chart.svg.append("text").attr("class", "words").attr("x", MARGIN.left + 4).attr("y", y(1 - data.loss) + 13)
    .text(`rule: ${share(1 - data.loss)} delivered`);
  curves(chart, data, y, "delivery");
  points(chart, data, spread(data, chart.x), (mark, p, at) => {
    mark.append("line").attr("class", "limit").attr("x1", at).attr("x2", at).attr("y1", y(p.delivered[1])).attr("y2", y(p.delivered[2]));
    mark.append("path").attr("class", p.heard ? "dot" : "dot-open").attr("d", d3.symbol(symbol(p.rig), 46))
      .attr("transform", `translate(${at} ${y(p.delivered[0])})`);
  });
}

function signal(host, data) {
  const chart = frame(host, data);
  const seen = data.points.flatMap((p) => [p.level[0], p.survivors]).filter((v) => v !== null);
  const lines = data.rigs.map((rig) => rig.threshold).filter((v) => v !== null);
  if (!seen.length) { chart.readout.text("No frame was heard with a level."); return; }
  const y = d3.scaleLinear().domain([Math.min(...seen, ...lines) - 8, Math.max(...seen) + 5]).nice()
    .range([MARGIN.top + HEIGHT - 22, MARGIN.top]).clamp(true);
  side(chart.svg, y, chart.width, minus);
  thresholds(chart, data, y);
  curves(chart, data, y, "level");
  points(chart, data, spread(data, chart.x), (mark, p, at) => signalPoint(mark, p, at, y));
  const loudest = d3.greatest(data.points.filter((p) => p.heard && p.survivors !== null), (p) => p.survivors - p.level[0]);
  if (loudest && loudest.survivors - loudest.level[0] > 0.8) {
    chart.svg.append("text").attr("class", "words").attr("x", spread(data, chart.x)(loudest)).attr("y", y(loudest.survivors) - 7)
      .attr("text-anchor", "middle").text("mean of heard ones alone");
  }
  if (data.exponent !== null) {
    const places = data.shadowing === null ? "" : ` \u00b7 places \u00b1${data.shadowing.toFixed(1)} dB`;
    chart.svg.append("text").attr("class", "words").attr("x", chart.width - MARGIN.right).attr("y", MARGIN.top + 2)
      .attr("text-anchor", "end").text(`slope ${(10 * data.exponent).toFixed(1)} dB per \u00d710${places}`);
  }
}

// Thresholds closer than 3 dB share a line and a label; the exact ones stand in the table.
function nearby(rigs) {
  const groups = [];
  for (const rig of [...rigs].sort((a, b) => b.threshold - a.threshold)) {
    const last = groups[groups.length - 1];
    if (last && last[0].threshold - rig.threshold < 3) last.push(rig);
    else groups.push([rig]);
  }
  return groups;
}

function thresholds(chart, data, y) {
  for (const rigs of nearby(data.rigs.filter((rig) => rig.threshold !== null))) {
    const at = y(d3.mean(rigs, (rig) => rig.threshold));
    chart.svg.append("line").attr("class", "ruleline").attr("x1", MARGIN.left).attr("x2", chart.width - MARGIN.right).attr("y1", at).attr("y2", at);
    chart.svg.append("text").attr("class", "words").attr("x", MARGIN.left + 4).attr("y", at - 4)
      .text(`${rigs.map((rig) => rig.letter).join(", ")}: half of frames lost, ${level(d3.mean(rigs, (rig) => rig.threshold))}`);
  }
}

function signalPoint(mark, p, at, y) {
  if (p.level[0] === null) return;
  if (!p.heard) { // nothing heard: a hollow triangle at the level below which it must lie
    mark.append("path").attr("class", "dot-open").attr("d", d3.symbol(d3.symbolTriangle, 46))
      .attr("transform", `translate(${at} ${y(p.level[2])}) rotate(180)`);
    return;
  }
  mark.append("line").attr("class", "limit").attr("x1", at).attr("x2", at).attr("y1", y(p.level[1])).attr("y2", y(p.level[2]));
  mark.append("path").attr("class", "dot").attr("d", d3.symbol(symbol(p.rig), 46)).attr("transform", `translate(${at} ${y(p.level[0])})`);
  if (p.survivors !== null && Math.abs(p.survivors - p.level[0]) > 0.8) {
    mark.append("path").attr("class", "survivor").attr("d", `M${at - 4} ${y(p.survivors)}h8`);
  }
}

const drawers = { delivery, signal };

function drawAll() {
  const source = document.getElementById("chart-data");
  if (!source) return;
  const data = JSON.parse(source.textContent);
  if (!data.points.length) return;
  for (const figure of document.querySelectorAll("[data-chart]")) drawers[figure.dataset.chart](figure.querySelector(".chart-plot"), data);
}

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
  image.onload = () => {
    const canvas = document.createElement("canvas");
    canvas.width = 2 * svg.clientWidth;
    canvas.height = 2 * svg.clientHeight;
    const pen = canvas.getContext("2d");
    pen.fillStyle = getComputedStyle(document.body).backgroundColor;
    pen.fillRect(0, 0, canvas.width, canvas.height);
    pen.scale(2, 2);
    pen.drawImage(image, 0, 0);
    canvas.toBlob((blob) => save(`${name}.png`, blob));
  };
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(text)}`;
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-save]");
  if (button) saveCharts(button.dataset.save);
});
document.addEventListener("htmx:load", drawAll);
document.addEventListener("inchmark:theme", drawAll);
addEventListener("resize", drawAll);
drawAll();
