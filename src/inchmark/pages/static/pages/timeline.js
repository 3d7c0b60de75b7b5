// Ends of stays dragged along the strip of time; what a moved end means for frames is said in Python.
const svg = document.querySelector(".time-strip svg");
const form = document.getElementById("move-edge");
const said = document.getElementById("edge-said");
const secondsAUnit = svg ? Number(svg.dataset.seconds) : 0;
const STEP_S = 5, LARGE_STEP_S = 60;

function placeOf(edge) {
  return edge.transform.baseVal.getItem(0).matrix.e;
}

function clock(x) {
  const at = new Date((Number(svg.dataset.start) + Number(svg.dataset.zone) + x * secondsAUnit) * 1000);
  return at.toISOString().slice(11, 19);
}

function move(edge, seconds) {
  edge.begun ??= placeOf(edge);
  edge.bySeconds = seconds;
  const x = edge.begun + seconds / secondsAUnit, y = edge.transform.baseVal.getItem(0).matrix.f;
  edge.setAttribute("transform", `translate(${x} ${y})`);
  edge.classList.add("moving");
  edge.setAttribute("aria-valuenow", Math.round(seconds));
  edge.setAttribute("aria-valuetext", clock(x));
  said.textContent = clock(x);
}

function back(edge) {
  if (edge.begun === undefined) return;
  move(edge, 0);
  edge.classList.remove("moving");
  said.textContent = "";
}

function keep(edge) {
  const seconds = Math.round(edge.bySeconds ?? 0);
  if (!seconds) { back(edge); return; }
  form.elements.stay.value = edge.dataset.stay;
  form.elements.which.value = edge.dataset.edge;
  form.elements.by_s.value = seconds;
  form.submit();
}

function unitsAt(event) {
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(svg.getScreenCTM().inverse()).x;
}

function drag(down) {
  const edge = down.currentTarget, from = unitsAt(down);
  edge.setPointerCapture(down.pointerId);
  const follow = (event) => move(edge, (unitsAt(event) - from) * secondsAUnit);
  edge.addEventListener("pointermove", follow);
  edge.addEventListener("pointerup", () => keep(edge), { once: true });
  edge.addEventListener("pointercancel", () => back(edge), { once: true });
  edge.addEventListener("lostpointercapture", () => edge.removeEventListener("pointermove", follow), { once: true });
}

function press(event) {
  const edge = event.currentTarget, by = event.shiftKey ? LARGE_STEP_S : STEP_S;
  if (event.key === "ArrowLeft") move(edge, (edge.bySeconds ?? 0) - by);
  else if (event.key === "ArrowRight") move(edge, (edge.bySeconds ?? 0) + by);
  else if (event.key === "Enter") keep(edge);
  else if (event.key === "Escape") back(edge);
  else return;
  event.preventDefault();
}

for (const edge of document.querySelectorAll(".stay-edge")) {
  edge.addEventListener("pointerdown", drag);
  edge.addEventListener("keydown", press);
}
