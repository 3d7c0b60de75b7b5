// A walk as it is walked: parts of the page come as they change; taps go out at once. No rule of the job lives here.
import { Marks } from "./marks.js";

const desk = document.getElementById("desk");
const { events, marks: url, next, walk, mayLog } = desk.dataset;
const at = (id) => document.getElementById(id);
const now = { stop: "", rig: "", condition: "" };
const marks = mayLog === "yes" ? await new Marks(walk, url, showKept).begin() : null;
let tone = null;

function showKept(left, words) {
  at("kept").textContent = left ? `${left} kept in this browser${words ? ` · ${words}` : ""}` : "";
}

function pressed() {
  for (const one of desk.querySelectorAll("[data-to-stop]")) one.setAttribute("aria-pressed", String(one.dataset.toStop === now.stop));
  for (const one of desk.querySelectorAll("[data-to-rig]")) one.setAttribute("aria-pressed", String(one.dataset.toRig === now.rig));
  for (const one of desk.querySelectorAll("[data-condition]")) one.setAttribute("aria-pressed", String(one.dataset.condition === now.condition));
}

function tell(change) {
  Object.assign(now, change);
  pressed();
  marks?.say({ what: "place", ...now });
}

function heard() {
  if (at("shake").checked) navigator.vibrate?.(20);
  if (!at("sound").checked) return;
  tone ??= new AudioContext();
  const one = tone.createOscillator();
  one.frequency.value = 880;
  one.connect(tone.destination);
  one.start();
  one.stop(tone.currentTime + 0.04);
}

const SPECIAL = {
  now(text) { Object.assign(now, JSON.parse(text)); pressed(); },
  people(text) { at("people").textContent = text ? `Here: ${text}.` : ""; },
};

function part({ name, html }) {
  if (SPECIAL[name]) { SPECIAL[name](html); return; }
  const place = at(name);
  if (!place) return;
  place.innerHTML = html;
  if (name.startsWith("link-")) { place.dataset.came = Date.now(); heard(); }
  silences();
}

// how long each link has been silent: counted here, from when its last frame came
function silences() {
  for (const one of document.querySelectorAll(".silence")) {
    const since = Number(one.dataset.since), every = Number(one.dataset.every);
    const quiet = Math.max(Date.now() / 1000 - since, 0);
    const long = since && quiet > Math.max(3 * every, 5);
    one.classList.toggle("mind", Boolean(long));
    if (!since) one.textContent = "";
    else if (quiet > 86_400) one.textContent = "not now";
    else one.textContent = `${long ? "! " : ""}silent ${Math.round(quiet)} s`;
  }
}

function listen() {
  const stream = new EventSource(events);
  stream.addEventListener("open", () => { at("line").textContent = "Live."; document.body.dataset.live = "yes"; });
  stream.addEventListener("part", (event) => part(JSON.parse(event.data)));
  stream.addEventListener("full", () => { at("line").textContent = "Too many pages watch from this app already; this one tries again."; });
  stream.addEventListener("error", () => {
    document.body.dataset.live = "no";
    at("line").textContent = "The app is away; what you tap is kept here.";
    if (stream.readyState === EventSource.CLOSED) setTimeout(listen, 3000);
  });
}

function stepStop(by) {
  const stops = [...desk.querySelectorAll("[data-to-stop]")];
  const i = stops.findIndex((one) => one.dataset.toStop === now.stop);
  const to = stops[i < 0 ? (by > 0 ? 0 : stops.length - 1) : Math.min(Math.max(i + by, 0), stops.length - 1)];
  if (to) tell({ stop: to.dataset.toStop });
}

window.addEventListener("keydown", (event) => {
  if (!marks || event.ctrlKey || event.metaKey || event.altKey || localStorage.getItem("inchmark-keys") === "off") return;
  if (event.target.closest("input, textarea, select, dialog[open]")) return;
  const rig = /^[a-z]$/i.test(event.key) && desk.querySelector(`[data-to-rig="${event.key.toUpperCase()}"]`);
  if (event.key === "[") stepStop(-1);
  else if (event.key === "]") stepStop(1);
  else if (rig && event.shiftKey) tell({ rig: rig.dataset.toRig });
  else return;
  event.preventDefault();
  event.stopPropagation();
}, true);

desk.addEventListener("click", (event) => {
  const one = event.target.closest("button");
  if (!one || !marks) return;
  const { toStop, toRig, condition, nextStop, nextRig, nextWay } = one.dataset;
  if (toStop !== undefined) tell({ stop: toStop });
  else if (toRig !== undefined) tell({ rig: toRig });
  else if (condition !== undefined) tell({ condition });
  else if (nextStop !== undefined) tell({ stop: nextStop, rig: nextRig, condition: nextWay });
  else if ("away" in one.dataset) tell({ stop: "" });
});

desk.addEventListener("submit", async (event) => {
  const form = event.target;
  if (form.id === "other") {
    event.preventDefault();
    tell({ condition: form.condition.value.trim() });
    form.reset();
  } else if (form.id === "note") {
    event.preventDefault();
    const text = form.text.value.trim();
    if (text) await marks?.say({ what: "note", text, stop: now.stop });
    form.reset();
  } else if (form.dataset.item) {
    event.preventDefault();
    const skipped = event.submitter.value === "skipped", text = form.text.value.trim();
    if (skipped && !text) { form.text.focus(); return; }
    await marks?.say({ what: "ready", item: form.dataset.item, skipped, text });
    form.replaceWith(skipped ? `Passed over: ${text}` : "✓ done");
  }
});

function followPhone() {
  let last = 0;
  navigator.geolocation?.watchPosition(async ({ coords }) => {
    if (Date.now() - last < 10_000) return;
    last = Date.now();
    const answer = await fetch(`${next}?lat=${coords.latitude}&lon=${coords.longitude}`);
    if (answer.ok) at("next").innerHTML = await answer.text();
  }, () => {}, { enableHighAccuracy: true, maximumAge: 10_000 });
}

if ((await navigator.permissions?.query({ name: "geolocation" }))?.state === "granted") followPhone();
setInterval(() => { if (!document.hidden) silences(); }, 1000);
pressed();
listen();
document.body.dataset.ready = "yes";
