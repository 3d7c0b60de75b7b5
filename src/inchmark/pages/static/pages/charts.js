// Draws the two charts of Read from the data on the page; every figure was computed on the server.
const HEIGHT = 240;
const MARGIN = { top: 14, right: 26, bottom: 24, left: 44 };
const minus = (text) => String(text).replace("-", "\u2212");

function frame(host, data) {
  const width = Math.max(host.clientWidth, 280);
  host.replaceChildren();
  const svg = d3.select(host).append("svg").attr("width", width).attr("height", HEIGHT + MARGIN.top + MARGIN.bottom)
    .attr("role", "group");
  const far = d3.max(data.points, (p) => p.distance) * 1.6;
  const near = d3.min(data.points, (p) => p.distance) * 0.8;
  const x = d3.scaleLog().domain([near, far]).range([MARGIN.left, width - MARGIN.right]);
  const names = new Map(data.ticks.map((tick) => [tick.at, tick.words]));
  svg.append("g").attr("class", "axis").attr("transform", `translate(0 ${MARGIN.top + HEIGHT - 18})`)
    .call(d3.axisBottom(x).tickValues([...names.keys()]).tickFormat((d) => names.get(d)).tickSizeOuter(0));
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

const place = (chart) => (p) => chart.x(p.distance) + p.aside;

function points(chart, data, draw) {
  const at = place(chart);
  const marks = chart.svg.append("g").selectAll("a").data(data.points).join("a")
    .attr("href", (p) => p.url).attr("class", (p) => p.hue).attr("aria-label", (p) => p.words);
  marks.each(function (p) { draw(d3.select(this), p, at(p)); });
  const tell = (event, p) => chart.readout.text(p.words);
  marks.on("mouseenter", tell).on("focus", tell);
}

// The rig's own mark, an outline in a square of ten, as the server draws it everywhere.
function dot(mark, p, x, y) {
  mark.append("path").attr("class", p.heard ? "dot" : "dot-open").attr("d", p.mark)
    .attr("transform", `translate(${x - 5} ${y - 5})`);
}

function curves(chart, data, y, name) {
  const ends = [];
  for (const rig of data.rigs) {
    const rows = rig.curve.filter((row) => row[name] !== null);
    if (!rows.length) continue;
    const group = chart.svg.append("g").attr("class", rig.hue);
    const band = d3.area().x((r) => chart.x(r.distance)).y0((r) => y(r[name][1])).y1((r) => y(r[name][2]));
    const line = d3.line().x((r) => chart.x(r.distance)).y((r) => y(r[name][0]));
    group.append("path").attr("class", "band").attr("d", band(rows));
    group.append("path").attr("class", "curve").attr("d", line(rows));
    ends.push({ group, letter: rig.letter, x: chart.x(rows.at(-1).distance) + 4, y: y(rows.at(-1)[name][0]) + 4 });
  }
  letters(ends);
}

// The letters at the curves' ends, apart from each other and above the axis.
function letters(ends) {
  let floor = MARGIN.top + HEIGHT - 22;
  for (const end of ends.toSorted((a, b) => b.y - a.y)) {
    const at = Math.min(end.y, floor);
    floor = at - 12;
    end.group.append("text").attr("class", "direct").attr("x", end.x).attr("y", at).text(end.letter);
  }
}

function lineAcross(chart, at, words, below) {
  chart.svg.append("line").attr("class", "ruleline").attr("x1", MARGIN.left).attr("x2", chart.width - MARGIN.right)
    .attr("y1", at).attr("y2", at);
  chart.svg.append("text").attr("class", "words").attr("x", MARGIN.left + 4).attr("y", at + (below ? 13 : -4)).text(words);
}

function delivery(host, data) {
  const chart = frame(host, data);
  const y = d3.scaleLinear().domain([0, 1]).range([MARGIN.top + HEIGHT - 22, MARGIN.top]);
  side(chart.svg, y, chart.width, (v) => `${Math.round(v * 100)}%`);
  lineAcross(chart, y(data.rule.at), data.rule.words, true);
  curves(chart, data, y, "delivery");
  points(chart, data, (mark, p, at) => {
    mark.append("line").attr("class", "limit").attr("x1", at).attr("x2", at).attr("y1", y(p.delivered[1])).attr("y2", y(p.delivered[2]));
    dot(mark, p, at, y(p.delivered[0]));
  });
}

function signal(host, data) {
  const chart = frame(host, data);
  const seen = data.points.flatMap((p) => [p.level?.[0], p.heard_level]).filter((v) => v != null);
  if (!seen.length) { chart.readout.text("No frame was heard with a level."); return; }
  const lines = data.thresholds.map((line) => line.at);
  const y = d3.scaleLinear().domain([Math.min(...seen, ...lines) - 8, Math.max(...seen) + 5]).nice()
    .range([MARGIN.top + HEIGHT - 22, MARGIN.top]).clamp(true);
  side(chart.svg, y, chart.width, minus);
  for (const line of data.thresholds) lineAcross(chart, y(line.at), line.words, false);
  curves(chart, data, y, "level");
  points(chart, data, (mark, p, at) => signalPoint(mark, p, at, y));
  const labelled = data.points[data.heard_alone.point];
  if (labelled) {
    const at = place(chart)(labelled);
    const late = at > chart.width - MARGIN.right - 80; // no room to the right of it
    chart.svg.append("text").attr("class", "words").attr("x", late ? chart.width - MARGIN.right : at)
      .attr("y", y(labelled.heard_level) - 7).attr("text-anchor", late ? "end" : "middle").text(data.heard_alone.words);
  }
  chart.svg.append("text").attr("class", "words").attr("x", chart.width - MARGIN.right).attr("y", MARGIN.top + 2)
    .attr("text-anchor", "end").text(data.slope);
}

function signalPoint(mark, p, at, y) {
  if (p.level === null) return;
  if (!p.heard) { // nothing heard: hollow, at the level below which it must lie
    dot(mark, p, at, y(p.level[2]));
    mark.append("path").attr("class", "limit").attr("d", `M${at} ${y(p.level[2]) + 5}v8m-3 -3l3 3l3 -3`);
    return;
  }
  mark.append("line").attr("class", "limit").attr("x1", at).attr("x2", at).attr("y1", y(p.level[1])).attr("y2", y(p.level[2]));
  dot(mark, p, at, y(p.level[0]));
  if (p.heard_level !== null) {
    mark.append("path").attr("class", "survivor").attr("d", `M${at - 4} ${y(p.heard_level)}h8`);
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

document.addEventListener("htmx:load", drawAll);
document.addEventListener("inchmark:theme", drawAll);
addEventListener("resize", drawAll);
drawAll();
